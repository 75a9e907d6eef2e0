"""What is computed of an analysis once, while the page's process keeps it: the same object is the same revision."""

from loadstar.core.analysis import Analysis


class ByIdentity:
    """An analysis as a key."""

    def __init__(self, analysis: Analysis) -> None:
        self.analysis = analysis

    def __hash__(self) -> int:
        return id(self.analysis)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, ByIdentity) and other.analysis is self.analysis
