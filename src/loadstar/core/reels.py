"""Which wire is cut from which reel: the longest first, each from the reel where least is left (first that takes it is
not always enough, but nearly)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

NEAR_M = 1e-9


@dataclass(frozen=True)
class Reel:
    """A reel or off-cut: its length, the pieces cut from it, and what is left, m."""

    length_m: float
    pieces: tuple[tuple[str, float], ...]

    @property
    def left_m(self) -> float:
        """What is left on it."""
        return self.length_m - sum(metres for _, metres in self.pieces)


@dataclass(frozen=True)
class Cuts:
    """Pieces by reel, in the order of cutting, and those that no reel takes."""

    reels: tuple[Reel, ...]
    short: tuple[tuple[str, float], ...]

    @property
    def short_m(self) -> float:
        """Metres of those."""
        return sum(metres for _, metres in self.short)


def cut_from(pieces: Mapping[str, float], reels_m: Sequence[float]) -> Cuts:
    """Pieces (m, by wire) cut from reels: longest first, each from the reel that it leaves least on."""
    cut: list[list[tuple[str, float]]] = [[] for _ in reels_m]
    left = list(reels_m)
    short = []
    for wire, metres in sorted(pieces.items(), key=lambda one: (-one[1], one[0])):
        open_to = [n for n, rest in enumerate(left) if rest + NEAR_M >= metres]
        if not open_to:
            short.append((wire, metres))
            continue
        best = min(open_to, key=lambda n: (left[n], n))
        cut[best].append((wire, metres))
        left[best] -= metres
    return Cuts(tuple(Reel(length, tuple(here)) for length, here in zip(reels_m, cut, strict=True)), tuple(short))
