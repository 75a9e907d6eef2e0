"""What the meter has said of each circuit: which are proved, and of which a reading is out."""

from collections.abc import Mapping

from loadstar.core.prove.results import Proof, proofs

from ..frame.frame import Frame
from ..records import work as records
from . import proving as known


def proofs_of(frame: Frame) -> Mapping[str, Proof]:
    """Every circuit's proof, by its accessory; none where nothing has been read, or nothing could be computed."""
    readings = records.readings(frame.row)
    if not readings or not frame.analysis.is_solved:
        return {}
    return proofs(frame.analysis, known.plan_of(frame, readings), readings)


def unproved(frame: Frame, found: Mapping[str, Proof]) -> list[str]:
    """The circuits without proof, by name."""
    return [p.name for p in frame.plan.loads if p.id not in found or not found[p.id].is_proved]


def out(found: Mapping[str, Proof]) -> dict[str, int]:
    """How many readings of a circuit are out of their band, by its accessory; only those of which any is."""
    return {load: len(proof.out) for load, proof in found.items() if proof.out}
