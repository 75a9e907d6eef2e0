"""A plan made step by step, by the same edits that the pages use."""

from collections.abc import Iterable
from typing import Any

from ..doc.states import Feeding
from ..plan.model import Plan
from . import AddElement, AddWire, ChangeElement, Edit, Rename, SetMachine, SetRules, SetWire, apply


class Builder:
    """A plan under construction by edits, which are kept."""

    def __init__(self, name: str, plan: Plan | None = None) -> None:
        self.plan = plan or Plan()
        self.steps: list[Edit] = []
        self.do(Rename(name=name))

    def do(self, edit: Edit) -> None:
        """Apply an edit."""
        self.plan = apply(self.plan, edit)
        self.steps.append(edit)

    def add(self, what: str, *, alone: bool = False, typical: Iterable[str] = (), **values: Any) -> str:
        """Add an element (with its circuit, unless alone); its id. What is `typical` of it nobody has said."""
        before = {e.id for e in self.plan.elements()}
        self.do(AddElement.model_validate({"what": what, "values": values, "alone": alone,
                                           "marks": dict.fromkeys(typical, "typical")}))
        new = [e for e in self.plan.elements() if e.id not in before]
        return next(e.id for e in new if getattr(e, "kind", what) == what)

    def change(self, element: str, **values: Any) -> None:
        """Change an element."""
        self.do(ChangeElement(id=element, values=values))

    def machine(self, *, typical: Iterable[str] = (), **values: Any) -> None:
        """Set the machine's figures."""
        self.do(SetMachine.model_validate({"values": values, "marks": dict.fromkeys(typical, "typical")}))

    def lives(self, feed: str) -> Feeding:
        """When what hangs on a feed without a relay lives."""
        live = getattr(self.plan.part(feed), "live", None)
        if live in ("always", "key", "engine"):
            return live  # type: ignore[no-any-return]
        return "engine" if self.plan.machine.system == "magneto" else "key"

    def rules(self, **values: Any) -> None:
        """Set house rules."""
        self.do(SetRules(values=values))

    def lay(self, a: str, b: str, **values: Any) -> str:
        """Lay a wire by hand; its id."""
        self.do(AddWire(a=a, b=b, values=values))
        return self.plan.wires[-1].id

    def fix(self, wire: str, **values: Any) -> None:
        """Fix something of a wire."""
        self.do(SetWire(id=wire, values=values))

    def wire_to(self, end: str) -> str:
        """The wire that ends at a terminal."""
        return next(w.id for w in self.plan.wires if end in (w.a, w.b))
