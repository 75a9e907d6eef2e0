"""Rules about references and returns: what may touch the frame, kill wires, frame joints."""

from collections.abc import Iterator

from ..edits import ChangeElement, SetMachine, SetRules, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.frame import FramePoint
from ..parts.kill import KillWire
from ..refs import part_of
from ..sizing.drops import drop_limit_frac
from ..wiring.references import Groups, kill_wires_fed, negative_on_frame, two_references
from .registry import Say, rule
from .words import listed, state

SOURCE = "Return rule of docs/physics.md (circuit simulation: 9.7 A to the battery falls to 1.5 A)"


@rule(
    "reference.two-on-frame",
    meaning="An end of the generator's winding and the DC side's negative meet on the frame while a full-wave "
            "rectifier joins the two: part of every turn is shorted, little reaches the battery and coil and diodes "
            "burn.",
    cure="Lift the winding's end from the frame; or float the whole DC side with return wires of its own; or rectify "
         "half-wave with the frame in common.",
    source=SOURCE)
def two_on_frame(figures: Figures, say: Say) -> Iterator[Finding]:
    """Winding end and DC negative on one frame behind a full-wave rectifier."""
    found = two_references(figures.topology)
    if found is None:
        return
    generator, meeting = found
    where = listed(meeting.words)
    lifted = Several(edits=(ChangeElement(id=generator.id, values={"tied": "floating"}),
                            SetMachine(values={"chassis": "negative"})),
                     words="winding's end lifted; the frame is battery negative")
    yield say("stop",
                  (generator.id, *(part_of(j) for j in meeting.joints if part_of(j) != j)), (
        f"One end of {generator.name}'s winding is on the frame, and DC negative meets it there through {where}: the "
        "full-wave rectifier is shorted every turn. Three ways out: lift the winding's end from its core and bring it "
        "out (one joint to open in the stator, frame returns stay); keep every DC return on its own wire and let "
        "nothing DC touch the frame (a return wire for each accessory); or rectify half-wave with the frame in common "
        "(no new wire, but about half the output)."), "circuit", "", (
            Proposal(lifted, "The winding's end has been lifted; the frame is battery negative"),
            Proposal(ChangeElement(id=generator.id, values={"rectifier": "half"}), "Rectify half-wave")))


@rule(
    "reference.pack-on-frame",
    meaning="A traction pack's negative touches the frame: one chafed positive wire is then a short through the whole "
            "pack.",
    cure="Give the return a wire of its own and isolate the mounting.",
    source="Isolated packs: neither pole on the frame, so that one fault does not short it")
def pack_on_frame(figures: Figures, say: Say) -> Iterator[Finding]:
    """Packs whose negative reaches the frame."""
    if not figures.plan.packs or not figures.topology.uses_frame:
        return
    meeting = negative_on_frame(figures.topology)
    if meeting.joints:
        yield say("caution", tuple(part_of(j) for j in meeting.joints), (
            f"The pack's negative touches the frame through {listed(meeting.words)}: from then on a single "
            "chafed positive wire shorts the pack."), "circuit")


@rule(
    "reference.floats-and-touches",
    meaning="The DC side of this machine must stay off its frame, and something joins them.",
    cure="A return wire of its own, and an isolated mounting.",
    source="The machine's stated reference")
def floating_touches(figures: Figures, say: Say) -> Iterator[Finding]:
    """A frame that is to carry no DC, touched by DC negative (where it is not the shorted rectifier)."""
    if (figures.plan.machine.chassis == "negative" or figures.plan.packs or not figures.plan.battery
            or two_references(figures.topology)):
        return
    meeting = negative_on_frame(figures.topology)
    if meeting.joints:
        yield say("caution", tuple(part_of(j) for j in meeting.joints), (
            f"This machine's frame is not battery negative, yet DC negative reaches it through "
            f"{listed(meeting.words)}."), "circuit")


@rule(
    "kill.fed",
    meaning="A kill wire, which stops the engine by being grounded, is joined to a supply: the ignition is destroyed, "
            "or the engine cannot be stopped.",
    cure="Part it from everything but its stop switch; use a second, separate contact for anything else.",
    source="Kill circuits: grounded to stop, never fed")
def kill_fed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Kill wires that some position of the contacts joins to a supply."""
    for wire, supply in kill_wires_fed(figures.topology):
        yield say("stop", (wire.id,), (
            f"{wire.name} can be joined to {supply}'s live side: it stops the engine by being grounded and is never to "
            "be fed. Use a switch with two separate contacts."), "circuit")


@rule(
    "kill.shared",
    meaning="A kill wire shares a contact with another circuit.",
    cure="A contact of its own to the frame.",
    source="Kill circuits are kept out of the rest")
def kill_shared(figures: Figures, say: Say) -> Iterator[Finding]:
    """Kill wires joined to any load's circuit."""
    groups = Groups(figures.topology, None)
    fed = {wire.id for wire, _ in kill_wires_fed(figures.topology)}
    for part in figures.plan.of(KillWire):
        if part.id in fed:
            continue
        group = groups.of_terminal(part.at("t"))
        users = [p.name for p in figures.plan.loads
                 if group in (groups.of_terminal(p.at("pos")), groups.of_terminal(p.at("neg")))
                 and group != groups.of("frame")]
        if users:
            yield say("caution", (part.id,), (
                f"{part.name} shares its conductor with {listed(users)}: a fault there stops the engine, or keeps "
                "it from stopping."), "circuit")


@rule(
    "return.frame-joint",
    meaning="A return through the frame loses much in its joint once that has aged.",
    cure="A return wire of its own, or a cleaned joint with a toothed washer and grease.",
    source="The joint's stated resistance and ageing; house rule: voltage drop")
def frame_joint(figures: Figures, say: Say) -> Iterator[Finding]:
    """Frame joints that take more than half of what their load may lose."""
    for load in figures.plan.loads:
        name, _ = figures.volts.worst_drop(load)
        points = [p for k in figures.path(load.id).back if (p := figures.plan.is_one(k.element, FramePoint))]
        if name is None:
            continue
        for part in points:
            point = part.id
            volts = abs(figures.volts.row_through(point, name).current(point)) * part.joint_mohm * part.ageing / 1000
            allowed = drop_limit_frac(figures.plan, load) * figures.volts.begins_v(load.id, name) / 2
            if volts > allowed:
                yield say("caution", (point, load.id), (
                    f"{part.name} ({part.id}), aged to {part.joint_mohm * part.ageing:.3g} mΩ, takes {volts:.2f} V of "
                    f"{load.name} ({state(name)}); half of what it may lose is {allowed:.2f} V."), "circuit",
                    f"step/{point}/{name}",
                    (Proposal(ChangeElement(id=load.id, values={"returns": "own wire"}), "Give it a return wire"),))


@rule(
    "return.steering",
    meaning="A return by the frame from a place that turns with the steering leads through bearings, or through the "
            "sleeve of a cable: a way that is there by chance and burns what it goes through.",
    cure="A return wire of its own past the headstock.",
    source="Practice: neither bearings nor a speedometer's cable carry a return")
def by_the_steering(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads that return by the frame from a place that moves."""
    for load in figures.plan.loads:
        place = figures.plan.place(load.place)
        joints = [p for k in figures.path(load.id).back if (p := figures.plan.is_one(k.element, FramePoint))]
        if joints and place.moves == "with the steering" and any(
                figures.plan.place(p.place).moves == "with the steering" for p in joints):
            yield say("advice", (load.id,), (
                f"{load.name} returns by the frame from {place.name}, which turns with the steering: that leads "
                "through bearings or a cable's sleeve. Do not use these as a return."), "circuit", "",
                (Proposal(ChangeElement(id=load.id, values={"returns": "own wire"}), "Give it a return wire"),))


@rule(
    "return.school",
    meaning="An accessory returns through the frame although this plan's rule is a wire of its own.",
    cure="A return wire, or change the rule and say why.",
    source="House rule: returns")
def return_school(figures: Figures, say: Say) -> Iterator[Finding]:
    """Frame returns against the house rule (a magneto's lamps always return through the frame)."""
    if figures.plan.rules.returns == "frame" or figures.plan.machine.system == "magneto":
        return
    for load in figures.plan.loads:
        if load.returns == "frame":
            yield say("advice", (load.id,), (
                f"{load.name} returns through the frame; the house rule is a wire of its own."), "accessory", "",
                (Proposal(ChangeElement(id=load.id, values={"returns": "own wire"}), "Give it a return wire"),))


@rule(
    "rules.no-reason",
    meaning="This plan departs from the workshop's house rules and nobody has said why.",
    cure="Write the reason beside the rule, or go back to the workshop's.",
    source="House rules")
def no_reason(figures: Figures, say: Say) -> Iterator[Finding]:
    """House rules of this plan that differ from the usual ones without a reason."""
    rules, usual = figures.plan.rules, figures.plan.workshop_rules
    for name in type(rules).model_fields:
        if name != "reasons" and getattr(rules, name) != getattr(usual, name) and not rules.reasons.get(name,
                                                                                                        "").strip():
            yield say.of(name)("note", (), (
                f"The house rule \"{name.replace('_', ' ')}\" is {getattr(rules, name)} in this plan instead of "
                f"{getattr(usual, name)}, and no reason is given."), "circuit", "",
                (Proposal(SetRules(values={name: getattr(usual, name)}), "Go back to the usual"),))
