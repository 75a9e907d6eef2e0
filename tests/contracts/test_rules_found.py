"""A rule in a module of its own is found by itself, told after the others, and its findings bear its id."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from loadstar.core import rules
from loadstar.core.rules import FIRST, RULES
from loadstar.core.rules.registry import rule

RULES_HAVE = "load.drop"
HERE = Path(rules.__file__).parent
NEW = '''"""A rule of a scratch branch."""
from .registry import rule
@rule("scratch.always", meaning="m", cure="c", source="s")
def always(figures, say):
    """Always."""
    yield say.of("x")("note", (), "it speaks.", "machine")
'''
ASKED = """
import sys
sys.path[:0] = sys.argv[1:]
from builders import Bench
from loadstar.core.analysis import analyse
last = [f for f in analyse(Bench().plan).findings if f.severity == "note"][-1]
print(last.rule, last.sentence, last.key)
"""


def test_every_module_of_rules_is_found():
    modules = {p.stem for p in HERE.glob("*.py")} - {"__init__", "registry", "words"}
    assert {rule.family for rule in RULES.values()} == modules == set(FIRST)


def test_a_rule_in_a_new_module_speaks_last_under_its_own_id(tmp_path):
    (tmp_path / "loadstar").mkdir()
    shutil.copytree(HERE.parent, tmp_path / "loadstar" / "core", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(HERE.parents[1] / "__init__.py", tmp_path / "loadstar")
    (tmp_path / "loadstar" / "core" / "rules" / "scratch.py").write_text(NEW)
    asked = subprocess.run([sys.executable, "-c", ASKED, str(tmp_path), str(Path(__file__).parents[1])], check=True,
                           capture_output=True, text=True, env={"PATH": ""})
    assert asked.stdout.split() == ["scratch.always", "It", "speaks.", "('scratch.always',", "'x')"]


@pytest.mark.parametrize("says", [{"cure": ""}, {"meaning": ""}, {"source": ""}, {"rule_id": RULES_HAVE}])
def test_a_rule_that_is_half_said_does_not_import(says):
    words = {"rule_id": "scratch.half", "meaning": "m", "cure": "c", "source": "s", **says}
    with pytest.raises(TypeError, match="there already, or does not say"):
        rule(words.pop("rule_id"), **words)(lambda figures, say: iter(()))
    assert "scratch.half" not in RULES
