"""What may lie beside a run, what it does, and what is done about it."""

from dataclasses import dataclass

OPEN = "open"  # something is there, and nothing is done about it yet


@dataclass(frozen=True)
class Hazard:
    """One sort: how a form asks for it, what it is in a sentence and in a word or two, what happens, the cures of which
    the first is usual, and what the button for that says."""

    asked: str
    what: str
    short: str
    happens: str
    cures: tuple[str, ...]
    plan: str


# By the field of a run that says it.
HAZARDS: dict[str, Hazard] = {
    "edge": Hazard("A sharp edge beside it", "a sharp edge", "a sharp edge", "it saws through the wires with vibration",
                   ("edge trim", "spiral wrap", "clipped away"), "Plan edge trim"),
    "hot": Hazard("Something hot beside it", "something hot", "something hot", "insulation softens and chars",
                  ("heat sleeve", "clipped away"), "Plan heat sleeve"),
    "moving": Hazard("Chain, tyre or suspension beside it", "a chain, tyre or suspension that moves",
                     "something that moves", "it is caught and torn", ("clipped away", "spiral wrap"),
                     "Plan to clip it away"),
    "pinch": Hazard("Seat or tank can pinch it", "seat or tank, which can pinch it", "a pinch",
                    "wires are crushed on to the frame", ("clipped away",), "Plan to clip it away"),
    "jet": Hazard("A jet of water strikes it", "where a jet of water strikes", "a jet of water",
                  "it drives in past seals", ("shielded", "clipped away"), "Plan to shield it"),
    "vibrates": Hazard("It shakes against the frame", "what shakes it against the frame", "shaking", "it rubs through",
                       ("clip with rubber",), "Plan a clip with rubber"),
}
