"""What people do to plans while Loadstar is killed under them."""

import json
import random
import re
import urllib.error
import uuid
from http.client import HTTPException

from crowd import Worker


def head_of(worker: Worker) -> int:
    return int(re.search(r'<td class="n">(\d+)</td>', worker.get(f"{worker.plan}history/"))[1])  # type: ignore[index]


def renamed(worker: Worker, head: int, name: str) -> None:
    """One edit, and that it was taken: RuntimeError when it was not."""
    page = worker.text_of(worker.post(f"{worker.plan}edit/", base=str(head), next=f"{worker.plan}loads/",
                                      edit=json.dumps({"kind": "rename", "name": name})))
    if f"<strong>{name}</strong>" not in page:
        raise RuntimeError(f"{worker.plan} is dead: an edit of revision {head} was not taken")


def send(worker: Worker, plan: str, answered: dict[str, list[str]]) -> None:
    worker.plan = plan
    head = head_of(worker)
    while True:
        name = f"plan {uuid.uuid4().hex[:8]}"
        renamed(worker, head, name)
        head += 1
        answered[plan].append(name)


def look(worker: Worker, plans: list[str], dice: random.Random) -> None:
    while True:
        for plan in plans:
            worker.get(f"{plan}{dice.choice(('loads/', 'budget/', 'findings/'))}")


def put_away(worker: Worker, plan: str) -> None:
    while True:
        worker.post(f"{plan}archive/")
        worker.post(f"{plan}unarchive/")


def until_killed(act, *words) -> None:  # type: ignore[no-untyped-def]
    try:
        act(*words)
    except (OSError, HTTPException, urllib.error.HTTPError):  # killed in the middle of an answer
        return
