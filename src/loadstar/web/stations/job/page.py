"""What the work is on a plan: the tasks of its kind of job, whole circuits, and its pages in turn."""

from typing import Any

from loadstar.core.intents import offered
from loadstar.core.jobs import JOBS, Task, tasks_for

from ...frame.frame import Frame
from ...frame.registry import run_list
from .want import want_form


def job(frame: Frame) -> dict[str, Any]:
    """The kind of job with its tasks, what else can be made whole, and the pages in turn."""
    plan, here = frame.plan, JOBS[frame.plan.job]
    key = frame.request.GET.get("want", "")
    wanted = frame.extra.get("wanted") or (want_form(frame, key) if key else None)
    tasks = [{"task": task, "link": _link(frame, task)} for task in tasks_for(plan)]
    own = {task.intent for task in tasks_for(plan)}
    return {"job": here, "kinds": list(JOBS.values()), "tasks": tasks,
            "wanted": wanted if frame.may_edit else None,
            "others": [(kind.KEY, kind.TITLE, frame.link("job", want=kind.KEY, sel=""))
                       for kind in offered(plan) if kind.KEY not in own],
            "pages": [{**s, "says": here.pages[s["key"]]} for s in run_list(frame) if s["key"] in here.pages]}


def _link(frame: Frame, task: Task) -> str:
    """Where a task begins."""
    if task.intent:
        return frame.link("job", want=task.intent, sel="")
    return frame.link(task.page, sel="", **({"view": task.view} if task.view else {}))
