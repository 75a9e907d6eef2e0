"""What every part says of itself. A kind that leaves out what it must say is refused when it is defined."""

from collections.abc import Iterator
from typing import Any, ClassVar, Literal

from ..doc.machine import Machine, SystemKind
from ..doc.states import Live, States
from ..doc.types import Id, Marked, Name
from ..materials.terminals import Family
from ..refs import ElementRef, TerminalRef
from .asks import Ask
from .dimensions import Dimensions
from .inside import Cavity, ContactRating, Drives, Inside, Limit, Protection
from .terminals import OWN_LEAD, PartTerminal, half_said
from .work import Ends, Wanted, Work

Glance = tuple[str, float, str]  # words, a figure and its unit


class Part(Marked):
    """Something of the machine or of what is added to it, at a place. `made_for` is what it was made for and goes with;
    `stage` in which of the plan's stages it is made ("": from the first); `termination` what wires at it end in ("":
    what is usual at its kind)."""

    id: Id
    name: Name
    place: Id
    made_for: Id | None = None
    stage: Literal["", "A", "B", "C", "D"] = ""
    dimensions: Dimensions | None = None
    termination: Literal["", Family] = ""
    kind: str

    IN_COMMON: ClassVar[bool] = False  # what some kinds have in common, no kind itself
    PREFIX: ClassVar[str]  # of its ids
    TITLE: ClassVar[str]  # what it is, in words
    TERMINALS: ClassVar[tuple[PartTerminal, ...]]
    ASKS: ClassVar[tuple[Ask, ...]]  # what its form asks
    FEED_WORDS: ClassVar[str] = ""  # how it feeds an accessory; "": nothing is fed from it
    MOST: ClassVar[int] = 1_000_000  # of it in one plan
    SYSTEMS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "magneto", "ignition_only", "pack")
    GROUP: ClassVar[str] = ""  # the heading of its list in the survey; "": it is in none
    ADD_WORDS: ClassVar[str] = ""
    FITS: ClassVar[tuple[SystemKind, ...]] = ()  # machines that it is offered on
    BEGINS: ClassVar[dict[str, Any]] = {}  # what a new one's form begins with, beyond the fields' own values
    ADDED: ClassVar[bool] = True  # by a form; False: only comes with what it is part of
    BACK_WORDS: ClassVar[str] = ""  # where a circuit that hangs on it ends
    OWN_ENDS: ClassVar[tuple[str, ...]] = ()  # terminals that count as used though nothing is wired to them
    CHOSEN: ClassVar[str] = ""  # the field that Loadstar chooses where it is null
    POLES: ClassVar[tuple[str, ...]] = ()  # its positive and negative terminal on the main supply, where that matters
    MAIN_WORDS: ClassVar[str] = ""  # what its circuit with the main supply is for; "": it has none of its own
    CONSUMES: ClassVar[bool] = False  # it asks something of what it is wired to, and nothing while it is not
    GIVES: ClassVar[bool] = False  # it is there only to feed the main supply: with one pole joined it gives nothing
    WRONG_WAY: ClassVar[str] = ""  # what happens when its two poles are changed over
    STORES: ClassVar[bool] = False  # a store of energy: feeds a fault by itself too
    FUSED_BEFORE: ClassVar[bool] = False  # the machine has a fuse before it, known or not
    SYMBOL: ClassVar[str] = "joint"  # how a circuit's picture draws what it puts on the way
    SHORT: ClassVar[str] = ""  # what a step of a circuit calls it; "": its kind
    PROBED: ClassVar[str] = "across"  # between what its drop is measured
    SWITCHES: ClassVar[bool] = False  # what hangs on it has a switch of its own
    RETURN_END: ClassVar[str] = ""  # where returns may be brought together on it; "": nowhere
    TELLS_WHEN: ClassVar[bool] = False  # it lives by occasions of its own, and says which
    RELAYS: ClassVar[bool] = False  # what hangs on it may live by an occasion, through a relay
    BRIDGED: ClassVar[bool] = False  # taken out, its two wires meet where it was
    HOUSING: ClassVar[bool] = False  # a box that wires go into, and water after them
    MOVABLE: ClassVar[bool] = False  # may be put elsewhere to shorten a harness
    MATED: ClassVar[bool] = False  # two halves that come apart, wires on both sides
    AS_FOUND: ClassVar[bool] = False  # a wire or pin of the machine, as somebody found it
    JOINS: ClassVar[bool] = False  # wires are joined in it, and by nothing of its own
    KEPT_APART: ClassVar[bool] = False  # its lines share nothing, for safety
    HELD_BY: ClassVar[str] = "contact"  # what its own contacts are, for how usual it is that they fail
    ENDS_PLUGGED: ClassVar[Family | None] = None  # what wires at it end in while it sits in a block
    SITS: ClassVar[str] = ""  # where what it was made for is: "feed", "load", or "" at neither

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        if cls.__dict__.get("IN_COMMON"):
            return
        if wrong := half_said(cls):
            raise TypeError(f"{cls.__name__} {wrong}")

    @property
    def ends(self) -> tuple[str, ...]:
        """Its terminals."""
        return tuple(terminal.name for terminal in self.TERMINALS)

    @property
    def word(self) -> str:
        """What it is, in a word."""
        return self.SHORT or self.kind

    def at(self, terminal: str) -> TerminalRef:
        """One of its terminals."""
        return TerminalRef.of(self.id, terminal)

    def element(self, role: str = "") -> ElementRef:
        """What it puts between its terminals."""
        return ElementRef.of(self.id, role)

    def inside(self, machine: Machine) -> Inside:
        """All that it puts between its terminals."""
        raise NotImplementedError(f"{type(self).__name__} does not say what is inside")

    def glance(self, machine: Machine, where: str) -> Glance:
        """What its line in the survey's list says; `where` is its place in words."""
        raise NotImplementedError(f"{type(self).__name__} is in a list and does not say what of it is shown")

    def ends_in(self, terminal: str) -> Family | None:
        """What a wire at a terminal ends in; None: on a lead of the part's own, as the house rule has it."""
        usual = next((t.ends_in for t in self.TERMINALS if t.name == terminal), OWN_LEAD)
        return self.termination or (None if usual == OWN_LEAD else usual)

    def family(self, terminal: str, leads: Family) -> Family | None:
        """What a wire at a terminal is given: as its kind has it, or on a lead of its own as the house rule has it."""
        return self.ends_in(terminal) or leads

    def cavity(self, terminal: str) -> Cavity | None:
        """Where a wire at a terminal is pushed in until it clicks; None where nothing holds it so."""
        return None

    @property
    def along(self) -> bool:
        """Whether it sits somewhere along a run, with wires on both sides, and not at its place."""
        return False

    @property
    def along_mm(self) -> float | None:
        """How far along, from its place; None: Loadstar says where."""
        return None

    @property
    def plug_in_ways(self) -> int | None:
        """How many parts sit in it, a contact each; None: nothing does."""
        return None

    @property
    def above(self) -> str | None:
        """What it gets its current from, where that is something between a feed and it."""
        return None

    @property
    def one_barrel(self) -> bool:
        """Whether all its wires go into one barrel."""
        return False

    @property
    def each_contact_a(self) -> float | None:
        """What each of its contacts carries, where that is stated."""
        return None

    @property
    def hangs_on(self) -> str | None:
        """The feed that it hangs on with what it feeds itself; None: on none."""
        return None

    @property
    def beside_of(self) -> str | None:
        """The part that it works beside, with the same terminals; None: alone."""
        return None

    @property
    def own_return(self) -> str | None:
        """Where its return was told to go; None: where its feed's returns go."""
        return None

    @property
    def in_plug(self) -> str | None:
        """The connector of the machine that it is a pin of; None: of none."""
        return None

    @property
    def listed_as(self) -> str:
        """Its key in the list of usual accessories; "": it is in none."""
        return ""

    @property
    def own_figure(self) -> str:
        """The field that says what it draws, with how that is known; "": nothing of it says so."""
        return ""

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """What of its fields cannot be together: the field, and a sentence."""
        return iter(())

    @property
    def own_lead_m(self) -> float | None:
        """How long its own leads are; None: nobody has said."""
        return self.dimensions.lead_m if self.dimensions else None

    # -- asked of what has such things inside: a kind that has them answers ---------------------------------------

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Its source's equation in a state; `empty` where packs are nearly so."""
        raise NotImplementedError(f"{type(self).__name__} has a source and does not say what drives it")

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Its source's equation in a fault, as strong as can be or as judged; `alone`: nothing else feeds."""
        raise NotImplementedError(f"{type(self).__name__} has a source and does not say what it drives into a fault")

    def takes(self, state: States, machine: Machine) -> float | None:
        """What its load takes in a state, in its load's unit; None: always the same."""
        raise NotImplementedError(f"{type(self).__name__} has a load and does not say what it takes")

    def converts_in(self, state: States) -> bool:
        """Whether its converter is switched on in a state."""
        raise NotImplementedError(f"{type(self).__name__} has a converter and does not say when it is on")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """Make what lies between it and an accessory that hangs on it; where the accessory's two wires begin."""
        raise NotImplementedError(f"{type(self).__name__} has words as a feed and does not say how it feeds")

    def takes_plug(self, work: Work, load: Wanted) -> Ends | None:
        """Where the wires of a lead begin that is plugged in as it came; None: nothing is plugged in there."""
        return None

    def stands_in(self, state: States) -> tuple[str, ...]:
        """Where it may stand in a state, at rest first; nothing for what is not moved by hand, foot or warmth."""
        return ()

    @property
    def taken_at(self) -> str:
        """Where it is said to stand usually; "": nobody has said."""
        return ""

    @property
    def springs_back(self) -> bool:
        """Whether it goes back to rest when let go."""
        return False

    def is_lit(self, live: Live, stand: str) -> bool:
        """Whether what hangs on it and lives so is on while it stands there."""
        return True

    def joined_at(self, stand: str) -> int:
        """How many contacts are closed while it stands there."""
        return 0

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        """What decides how it is wired: where that changes, its circuit is made anew."""
        return ()

    def arrive(self, work: Work) -> None:
        """Make what a new one needs to work: its main fuse, its leads. Of itself, nothing."""

    def back(self, work: Work) -> TerminalRef | None:
        """Where what hangs on it returns to by a wire; None: it can only return by the frame."""
        return work.rail.back

    @property
    def return_at(self) -> TerminalRef:
        """Where returns are brought together on it."""
        assert self.RETURN_END, self.id
        return self.at(self.RETURN_END)

    def gives(self, live: Live) -> bool:
        """Whether what hangs on it can live so by the feed alone."""
        return live in ("always", "key", "engine")

    @property
    def lives_unswitched(self) -> Live:
        """When what hangs on it lives, with no relay or switch."""
        return "always"

    @property
    def can_feed(self) -> bool:
        """Whether an accessory may hang on it."""
        return bool(self.FEED_WORDS)

    @property
    def protection(self) -> Protection | None:
        """How it ends a current by itself; None: not at all."""
        return None

    def limit(self, machine: Machine) -> Limit | None:
        """That it lets no more through than so much; None: it does not limit."""
        return None

    @property
    def contact(self) -> ContactRating | None:
        """Its contact's rating; None: it has none that wears."""
        return None

    def own_w(self, state: States, at_v: float) -> float | None:
        """What the machine itself uses by it in a state, W at the posts; None: it is none of its own."""
        return None

    @property
    def standing_draw(self) -> tuple[float, str] | None:
        """What it draws with everything off, W, and in words; None: nothing."""
        return None

    def after_remaking(self, made: "Part") -> dict[str, Any]:
        """Of the part that a recipe made anew in its place, what it takes over; everything else stays as it was."""
        return {"place": made.place, "name": made.name}

    @property
    def by_hand(self) -> bool:
        """Whether what Loadstar would choose is fixed."""
        return bool(self.CHOSEN) and getattr(self, self.CHOSEN) is not None
