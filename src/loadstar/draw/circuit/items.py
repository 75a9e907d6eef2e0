"""What a circuit drawing has to show: every wire, and whatever lies between two nodes, each once.

A node with two things at it lies within a chain; every other, and every one that has a name of its own (a block's bar,
a splice, the frame), is a bar that chains end at.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from loadstar.core.analysis import Analysis
from loadstar.core.parts.base import Part
from loadstar.core.parts.can import as_accessory
from loadstar.core.parts.inside import FRAME
from loadstar.core.refs import ElementRef, TerminalRef

# Between feed and return.
TAKES = frozenset({"lamp", "motor", "load", "coil", "cell", "generator", "converter", "output"})


@dataclass(frozen=True)
class Item:
    """Something between two nodes: its element ("W1", "K1.coil"), what it is drawn as, and its nodes. `about`: its
    second end stands first."""

    element: ElementRef
    kind: str
    a: str
    b: str
    about: bool = False

    @property
    def turned(self) -> "Item":
        """The same from its other end."""
        return replace(self, a=self.b, b=self.a, about=not self.about)


@dataclass(frozen=True)
class Chain:
    """Items one after the other between two bars."""

    items: tuple[Item, ...]

    @property
    def a(self) -> str:
        """The bar that it begins at."""
        return self.items[0].a

    @property
    def b(self) -> str:
        """The bar that it ends at."""
        return self.items[-1].b

    @property
    def turned(self) -> "Chain":
        """The same from its other end."""
        return Chain(tuple(item.turned for item in reversed(self.items)))

    @property
    def loads(self) -> range:
        """Which of its items lie from the first that takes something to the last."""
        found = [n for n, item in enumerate(self.items) if item.kind in TAKES]
        return range(found[0], found[-1] + 1) if found else range(len(self.items), len(self.items))


class Circuitry:
    """A plan as items, bars, and the chains between them."""

    def __init__(self, analysis: Analysis) -> None:
        self.analysis, self.topology = analysis, analysis.topology
        self.items = self._kept(tuple(self._every()))

    def _every(self) -> Iterator[Item]:
        t = self.topology
        for wire in self.analysis.plan.wires:
            yield Item(ElementRef(wire.id), "wire", t.node(wire.a), t.node(wire.b))
        for link in t.links:
            if link.element in t.branches:
                part = t.parts.get(link.element.part)
                yield Item(link.element, part.SYMBOL if part is not None else "joint", link.a, link.b)
        for link in t.coils:
            yield Item(link.element, "coil", link.a, link.b)
        network = t.elements
        for load in network.loads:
            if load.name in t.parts:  # not what only stands for the machine's own starter
                yield Item(ElementRef(load.name), self._takes(t.parts[load.name]), load.plus, load.minus)
        for source in network.sources:
            stores = t.parts[source.name].STORES
            name = f"{source.name}.source" if source.name in t.branches else source.name
            yield Item(ElementRef(name), "cell" if stores else "generator", source.plus, source.minus)
        for diode in network.diodes:
            yield Item(ElementRef(diode.name), "diode", diode.a, diode.b)
        for converter in network.converters:
            yield Item(ElementRef(f"{converter.name}.in"), "converter", converter.in_plus, converter.in_minus)
            yield Item(ElementRef(f"{converter.name}.out"), "output", converter.out_plus, converter.out_minus)

    @staticmethod
    def _takes(part: Part) -> str:
        accessory = as_accessory(part)
        return accessory.category if accessory and accessory.category in ("lamp", "motor") else "load"

    def _kept(self, every: tuple[Item, ...]) -> tuple[Item, ...]:
        """Without what leads nowhere: a contact or a found wire whose far end nothing is at."""
        at: dict[str, int] = defaultdict(int)
        for item in every:
            at[item.a] += 1
            at[item.b] += 1
        used = {self.topology.node(terminal) for terminal in self.topology.wired} | {
            node for root in self.topology.roots for node in (root.positive, root.negative)}
        wires = self.topology.wires
        return tuple(i for i in every if i.element in wires
                     or not any(at[node] == 1 and node not in used for node in (i.a, i.b)))

    @cached_property
    def names(self) -> dict[str, str]:
        """What a bar is called: the terminals of what has no symbol of its own, or else the first of its terminals."""
        own = {item.element.part for item in self.items}
        at: dict[str, list[TerminalRef]] = defaultdict(list)
        for part in self.analysis.plan.parts:
            for end in part.ends:
                at[self.topology.node(part.at(end))].append(part.at(end))
        found = {}
        for node in self.joined:
            bare: dict[str, list[str]] = defaultdict(list)
            for terminal in at[node]:
                if terminal.part not in own:
                    bare[terminal.part].append(terminal.name)
            found[node] = "; ".join(self._called(part, ends) for part, ends in bare.items()) or (
                self._called(TerminalRef(node).part, [TerminalRef(node).name]) if node != FRAME else "frame")
        return found

    def _called(self, part: str, ends: list[str]) -> str:
        """Terminals of a part in short: a splice by its id alone."""
        known = self.topology.parts.get(part)
        return part if known is not None and len(known.ends) == 1 else f"{part} {', '.join(ends)}"

    @cached_property
    def joined(self) -> dict[str, list[Item]]:
        """The items at every node, each from there."""
        found: dict[str, list[Item]] = defaultdict(list)
        for item in self.items:
            found[item.a].append(item)
            found[item.b].append(item.turned)
        return dict(found)

    @cached_property
    def bars(self) -> frozenset[str]:
        """The nodes that chains end at."""
        own = {item.element.part for item in self.items}
        named = {self.topology.node(part.at(end)) for part in self.analysis.plan.parts if part.id not in own
                 for end in part.ends}
        named |= {node for root in self.topology.roots for node in (root.positive, root.negative)}
        return frozenset(n for n, items in self.joined.items() if len(items) != 2 or n in named or n == FRAME)

    @cached_property
    def chains(self) -> tuple[Chain, ...]:
        """Every item in one chain; a ring of nothing but chain has a bar at its first item."""
        done: set[str] = set()
        found = [self._chain(item, done) for node in self.joined if node in self.bars for item in self.joined[node]
                 if item.element not in done]
        found += [self._chain(item, done) for item in self.items if item.element not in done]
        return tuple(found)

    def _chain(self, first: Item, done: set[str]) -> Chain:
        """From a bar on until the next."""
        items = [first]
        done.add(first.element)
        while items[-1].b not in self.bars and items[-1].b != first.a:
            onward = next(i for i in self.joined[items[-1].b] if i.element != items[-1].element)
            items.append(onward)
            done.add(onward.element)
        return Chain(tuple(items))

    @cached_property
    def left_out(self) -> tuple[Part, ...]:
        """Parts that nothing is joined to."""
        shown = {item.element.part for item in self.items}
        return tuple(p for p in self.analysis.plan.parts if p.id not in shown
                     and not any(self.topology.node(p.at(end)) in self.joined for end in p.ends))
