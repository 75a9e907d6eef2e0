"""Rooms with the suites that guard them: where `./loadstar mutants` puts faults, and what has to see them.

A suite states what its room promises and runs in under a minute; those below the web need neither Django nor a
database. Every module stands in one room (`tools/house.py` looks).
"""

from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


@dataclass(frozen=True)
class Room:
    """Modules, and the tests that guard them."""

    modules: tuple[str, ...]
    suite: tuple[str, ...]
    web: bool = False

    def files(self) -> list[Path]:
        """Its modules, in order."""
        above = ROOT / "src" / "loadstar" / ("web" if self.web else "core")
        found = (path.resolve() for name in self.modules for path in sorted(above.glob(name)))
        return [path for path in found if path.name != "__init__.py" and "migrations" not in path.parts]


CORE, JUDGED, NETS, WEB = "tests/core/", "tests/judgement/", "tests/contracts/", "tests/web/"
CIRCUIT = f"{WEB}test_circuit_readings.py"
SHOWN = f"{WEB}test_shown.py::test_pages_papers_and_files_show_what_was_agreed[fit_out]"
SENT = f"{WEB}test_forms_sent.py::test_forms_answer_and_leave_what_was_agreed"
MADE = "tests/exchange/test_exchange.py::test_generated_documents_are_current"
TABLES, PAGE_OF_KINDS = f"{MADE}[docs/tables.md]", f"{MADE}[docs/format/kinds.md]"
KEPT, SAID, BEGUN = (f"{NETS}test_{net}.py" for net in ("kept", "said", "begun"))


def of(*tests: str) -> tuple[str, ...]:
    """Some of the tests of the web."""
    return tuple(f"{WEB}{test}.py" for test in tests)


def sent(*parts: str) -> tuple[str, ...]:
    """What the forms of some parts do, as agreed."""
    return tuple(f"{SENT}[{part}]" for part in parts)


def worked(*sections: str) -> tuple[str, ...]:
    """Some sections of what was worked out and agreed."""
    return tuple(f"{NETS}test_worked.py::test_{section}" for section in sections)


ROOMS = {
    # tables and laws
    "quantities": Room(("quantities.py",), (f"{CORE}test_quantities.py",)),
    "limits": Room(("limits.py", "errors.py"), (f"{CORE}test_limits.py",)),
    "amounts": Room(("amounts.py",), (f"{CORE}test_amounts.py",)),
    "materials": Room(("materials/*.py",), ("tests/reference/test_tables.py", f"{CORE}ends/test_terminals.py", TABLES,
                                            f"{CORE}harness/test_lengths.py", f"{JUDGED}test_ampacity.py")),
    "heat": Room(("physics/heat.py", "physics/surface.py", "physics/overload.py", "physics/bundle.py"),
                 ("tests/reference/test_heat.py",)),
    "battery": Room(("physics/battery.py",), ("tests/reference/test_battery.py", TABLES)),
    "machines": Room(("physics/generator.py", "physics/coil.py"),
                     ("tests/reference/test_generator.py", "tests/reference/test_coil.py")),
    "network": Room(("physics/[!hsobgc]*.py", "physics/batch.py", "physics/graph.py"),
                    ("tests/reference/test_network.py", "tests/reference/test_generated.py", KEPT,
                     *worked("proving"))),
    # what a plan is
    "refs": Room(("refs.py",), (f"{CORE}test_refs.py",)),
    "document": Room(("doc/*.py", "plan/document.py", "plan/integrity.py"),
                     (f"{CORE}test_integrity.py", f"{CORE}test_document.py")),
    "plan": Room(("plan/[!di]*.py",), (f"{CORE}test_outside.py", f"{CORE}test_edits.py", f"{CORE}test_survey.py",
                                       f"{JUDGED}test_keeping_edits.py", f"{CORE}test_switching.py",
                                       f"{CORE}harness/test_ways.py", f"{CORE}test_begin.py", f"{CORE}test_robust.py",
                                       f"{CORE}test_plan.py", BEGUN, TABLES, *worked("saying", "editing"))),
    "parts": Room(("parts/*.py",), (f"{CORE}test_parts.py", f"{CORE}test_parts_give.py", PAGE_OF_KINDS,
                                    f"{NETS}test_kinds.py", f"{NETS}test_unwired.py",
                                    f"{CORE}test_integrity.py", f"{CORE}test_switching.py",
                                    f"{CORE}test_lamp_circuits.py", f"{CORE}test_shared_leads.py",
                                    f"{CORE}test_fed.py", f"{CORE}test_supplies.py", *worked("saying", "editing"))),
    "supply": Room(("supply/*.py",), (f"{CORE}test_supply.py", f"{CORE}test_supplies.py", f"{CORE}test_standard.py",
                                      f"{JUDGED}test_supplies.py", f"{CORE}test_side_coil.py", KEPT,
                                        *worked("counting", "saying"))),
    "edits": Room(("edits/*.py",), (f"{CORE}test_edits.py", f"{CORE}test_edits_whole.py", f"{CORE}test_labels.py",
                                    f"{CORE}test_edits_survey.py",
                                    f"{CORE}test_recipes.py",
                                    f"{CORE}test_survey.py", f"{JUDGED}test_keeping_edits.py", f"{CORE}test_fed.py",
                                    f"{CORE}test_shared_leads.py", f"{CORE}harness/test_ways.py",
                                    f"{JUDGED}test_words.py", f"{CORE}ends/test_joint.py", BEGUN, *worked("editing"))),
    # what follows from it
    "wiring": Room(("wiring/*.py",), (f"{CORE}test_wiring.py", f"{CORE}test_switching.py",
                                      f"{CORE}test_protection.py", "tests/reference/test_generated.py", KEPT,
                                        *worked("saying", "figuring", "shortly"))),
    "short": Room(("sizing/short.py",), (f"{CORE}test_short.py",)),
    "sizing": Room(("sizing/[!s]*.py", "sizing/story.py"),
                   (f"{JUDGED}test_sizing.py", f"{CORE}test_protection.py", f"{CORE}test_unfused.py",
                    f"{CORE}test_figures.py", f"{JUDGED}test_faults.py", f"{JUDGED}test_inrush.py",
                    f"{JUDGED}test_back_feeds.py", f"{CORE}test_faults.py", KEPT,
                    *worked("figuring", "shortly"), SAID)),
    "packing": Room(("harness/packing.py", "harness/closest.py"),
                    (f"{CORE}harness/test_packing.py", f"{CORE}harness/test_closest.py")),
    "lengths": Room(("harness/lengths.py", "harness/ties.py"), (f"{CORE}harness/test_lengths.py",)),
    "harness": Room(("harness/[!clpt]*.py", "harness/loom.py", "harness/loops.py", "harness/tiling.py"),
                    (f"{CORE}harness/test_board.py", f"{CORE}harness/test_sheet.py", f"{CORE}harness/test_weigh.py",
                     f"{CORE}harness/test_fixing.py",
                     f"{CORE}harness/test_loom.py", f"{CORE}harness/test_ways.py", *worked("saying", "writing"))),
    "pins": Room(("ends/pins.py", "ends/joints.py"), (f"{CORE}ends/test_pins.py", f"{CORE}ends/test_put_in.py",
                                                     *worked("pinning"))),
    "ends": Room(("ends/[!pj]*.py",), (f"{CORE}ends/test_choose.py", f"{CORE}ends/test_compared.py",
                                        *worked("figuring"), SAID)),
    "budget": Room(("budget/*.py",), (f"{CORE}test_supplies.py", f"{CORE}test_figures.py", f"{CORE}test_second.py",
                                      KEPT, *worked("counting"))),
    "survey": Room(("survey/*.py",), (f"{CORE}test_measures.py", f"{CORE}test_survey.py", f"{CORE}test_survey_pins.py",
                                      f"{CORE}test_continuity.py", f"{CORE}test_pins_on_packs.py",
                                        *worked("saying", "writing"), SAID)),
    "feeds": Room(("feeds/*.py", "whatif/feeds.py"), (f"{CORE}test_feeds.py", f"{JUDGED}test_words.py",
                                        *worked("asking"))),
    "figures": Room(("figures/*.py",), (f"{CORE}test_figures.py", f"{CORE}test_second.py", f"{CORE}test_side_coil.py",
                                        f"{CORE}test_supplies.py", f"{CORE}test_survey.py", f"{CORE}test_fed.py",
                                        f"{CORE}test_lamp_circuits.py", *worked("figuring", "shortly"))),
    "rules": Room(("rules/*.py",), (f"{CORE}test_rules.py", f"{CORE}test_more_rules.py", f"{CORE}test_pack_rules.py",
                                    f"{CORE}test_rules_by_hand.py",
                                    f"{JUDGED}test_cases.py", f"{JUDGED}test_words.py", f"{CORE}test_second.py",
                                    f"{NETS}test_rules_speak.py")),
    "roots": Room(("analysis.py", "roots.py", "findings.py", "headline.py", "stages.py"),
                  (f"{CORE}test_headline.py", f"{CORE}test_roots.py", f"{JUDGED}test_words.py", SAID)),
    # what is done with it
    "begin": Room(("begin.py",), (f"{CORE}test_begin.py", f"{CORE}test_begin_feeds.py", BEGUN)),
    "intents": Room(("intents/*.py", "jobs.py"), (f"{CORE}test_jobs.py", f"{CORE}test_schools.py",
                                                  f"{CORE}test_convert.py", f"{CORE}test_lead_plug.py",
                                                  f"{CORE}test_supplied.py", f"{CORE}test_cutoff.py",
                                                  f"{JUDGED}test_makings.py", BEGUN, *worked("editing"))),
    "whatif": Room(("whatif/[!f]*.py",), (f"{CORE}test_ways_out.py", f"{CORE}test_unknown.py", f"{CORE}test_outlook.py",
                                          f"{CORE}harness/test_places.py",
                                          f"{JUDGED}test_words.py", f"{CORE}ends/test_joint.py",
                                        *worked("asking", "counting"))),
    "standard": Room(("standard.py",), (f"{CORE}test_standard.py",)),
    "order": Room(("order.py", "leads.py"), (f"{CORE}ends/test_order.py", f"{CORE}ends/test_compared.py",
                                        *worked("writing"))),
    "schools": Room(("schools.py",), (f"{CORE}test_compared_schools.py",)),
    "reels": Room(("reels.py",), (f"{CORE}ends/test_reels.py",)),
    "pocket": Room(("pocket/*.py",), (f"{CORE}test_pocket.py",)),
    "shelf": Room(("shelf.py",), (f"{CORE}test_shelf.py",)),
    "build": Room(("build/*.py",), (f"{CORE}build/test_build.py", f"{CORE}build/test_log.py",
                                    f"{CORE}build/test_goes.py", f"{CORE}build/test_on_machine.py",
                                        *worked("building"))),
    "prove": Room(("prove/*.py",), (f"{CORE}prove/test_measure.py", f"{CORE}prove/test_predict.py",
                                    f"{CORE}prove/test_diagnose.py", f"{CORE}prove/test_trainer.py",
                                    f"{CORE}prove/test_alone.py", f"{CORE}prove/test_set.py",
                                    f"{CORE}prove/test_told.py", f"{CORE}prove/test_amounts.py",
                                    f"{CORE}prove/test_more_faults.py",
                                        *worked("proving", "explaining", "training"))),
    # what is drawn and written
    "draw": Room(("../draw/*.py", "../draw/circuit/*.py", "../draw/crimp/*.py"),
                 ("tests/draw", f"{NETS}test_drawn.py")),
    "exchange": Room(("../exchange/*.py",), ("tests/exchange", "tests/reference/test_network.py",
                                            f"{CORE}ends/test_compared.py", *worked("writing"))),
    "standins": Room(("../standins/*.py",), ("tests/standins",)),
    "outside": Room(("../cli.py", "../pack.py", "../practice.py", "../demo/*.py"),
                    ("tests/exchange", f"{CORE}prove/test_trainer.py", f"{CORE}test_examples.py", *worked("training"))),
    # the web, from below
    "keeping": Room(("keeping/*.py", "logs.py", "headers.py", "onward.py"),
                    of("test_keeping", "test_onward", "test_health", "test_holes"), web=True),
    "workshop": Room(("workshop/*.py",),
                     (*of("test_people", "test_account", "test_house"), SHOWN,
                      *sent("me", "beside members", "bench", "beside rules")), web=True),
    "jobs": Room(("jobs/*.py",), of("test_jobs_beside", "test_house"), web=True),
    "plans": Room(("plans/*.py", "room.py", "errors.py"),
                  (*of("test_known", "test_edges", "test_pages", "test_house"), SHOWN, *sent("plan", "budget")),
                  web=True),
    "records": Room(("records/*.py",),
                    (*of("test_store", "test_shelf", "test_history", "test_house", "test_writers", "test_survey_files",
                         "test_machine_file"), *sent("plan", "build", "beside shelf", "prove")), web=True),
    "forms": Room(("frame/asks.py", "frame/fields.py", "frame/forms.py", "frame/opened.py", "frame/units.py",
                   "frame/widgets.py"),
                  (*of("test_forms", "test_widgets", "test_sent", "test_quantities", "test_house"),
                   *sent("rules", "circuits", "survey")), web=True),
    "frame": Room(("frame/[!afouw]*.py", "frame/frame.py", "frame/weighed.py"),
                  (*of("test_pages", "test_sent", "test_house", "test_supplies"), SHOWN,
                   *sent("rules", "circuits", "route")), web=True),
    "evidence": Room(("evidence/*.py",),
                     (*of("test_work", "test_proving", "test_acts", "test_known"), CIRCUIT, SHOWN,
                      *sent("build", "prove")), web=True),
    "papers": Room(("papers/*.py",),
                   (*of("test_fuse_words", "test_paper_parts", "test_handover", "test_machine_file", "test_board",
                        "test_begin"), SHOWN), web=True),
    "work": Room(("stations/build/*.py", "stations/prove/*.py"),
                 (*of("test_work", "test_proving", "test_acts"), CIRCUIT, SHOWN, *sent("build", "prove")), web=True),
    "finding out": Room(("stations/survey/*.py", "stations/on_map.py", "stations/route/*.py"),
                        (*of("test_survey", "test_survey_files", "test_route", "test_board"), SHOWN, *sent("survey")),
                        web=True),
    "wanting": Room(("stations/job/*.py",), (*of("test_want"), *sent("job")), web=True),
    "planning": Room(("stations/loads/*.py", "stations/budget/*.py", "stations/circuits/*.py", "stations/rules/*.py",
                      "stations/*s.py"),
                     (*of("test_supplies", "test_circuits", "test_house"), SHOWN,
                      *sent("circuits", "rules", "budget")), web=True),
    "ending": Room(("stations/ends/*.py", "stations/handover/*.py"),
                   (*of("test_ends", "test_shelf", "test_handover"), SHOWN,
                    *sent("ends", "handover", "beside shelf")), web=True),
    "bench": Room(("bench/*.py", "urls.py", "health.py"),
                  (*of("test_begin", "test_history", "test_finding", "test_health", "test_handover"), SHOWN,
                   *sent("bench", "plan", "beside begin")), web=True),
    "answers": Room(("pocket/*.py",), of("test_pocket"), web=True),
    "service": Room(("service/**/*.py", "wsgi.py", "gunicorn.py", "settings.py"),
                    of("test_health", "test_jobs_beside", "test_people", "test_holes"), web=True),
}
