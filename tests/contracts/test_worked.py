"""What edits do, what plans say of themselves, what is worked out for the bench and written into files: all of it is
what was read and agreed. There is a test for every section of the nets (`test_building`, `test_editing`, ...)."""

import pytest
from contracts import changed, worked
from contracts.net import Net

NETS = (worked.NET, changed.NET)


def _of(net: Net, section: str):  # type: ignore[no-untyped-def]
    names = [name for name in net.names if name.startswith(f"{section} ")]

    @pytest.fixture(scope="module", name=f"agreed_{section}")
    def agreed() -> dict[str, list[str]]:
        return net.kept()

    @pytest.mark.parametrize("name", names)
    def test(name, request):
        assert net.differs(name, request.getfixturevalue(f"agreed_{section}"))[:4] == []

    return agreed, test


for _net in NETS:
    for _section in {name.partition(" ")[0]: None for name in _net.names}:
        globals()[f"agreed_{_section}"], globals()[f"test_{_section}"] = _of(_net, _section)


@pytest.mark.parametrize("net", NETS)
def test_every_section_says_much(net):
    lines = net.kept()
    for section in {name.partition(" ")[0] for name in lines}:
        of_it = [line for name in lines if name.startswith(f"{section} ") for line in lines[name]]
        assert sum(map(len, of_it)) > 2_000, section
