"""Ticks from a telephone's browser through a network that is away half of the time, dropped requests and answers,
sign-outs, a second tab, and a server that is killed: none is lost, none is taken twice.

    python tools/acts.py [--acts 1000] [--faults 100] [--seed 1]

Runs Loadstar on a data folder of its own in memory. Each act is a note in the log of a build, with its number in it.
Ends with exit code 1 when any is not there exactly once.
"""

import argparse
import random
import sys
import time
from collections import Counter
from pathlib import Path

from kills import MEMORY, Round
from playwright.sync_api import BrowserContext, Error, Page, Route, sync_playwright

from launcher import access, folder

PRESS = """(n) => {
  const form = document.querySelector("form[data-tick]");
  form.querySelector("[name=note]").value = `act ${n}`;
  form.querySelector("[name=line]").checked = true;
  form.requestSubmit(form.querySelector("button[value=note]"));
}"""
WAITING = """() => new Promise((done) => {
  const asked = indexedDB.open("loadstar", 1);
  asked.onsuccess = () => {
    const count = asked.result.transaction("acts").objectStore("acts").count();
    count.onsuccess = () => { asked.result.close(); done(count.result); };
  };
})"""
FAULTS = {"no network": 50, "request dropped": 15, "answer dropped": 15, "signed out": 10, "killed": 10}  # of a hundred
AWAY = (4, 16)  # acts that the network is away for, about half of all
LONGEST_S, PAUSE_MS, KEPT_MS = 60, 60, 120_000
TELEPHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True}


class Bench:
    """Two tabs of one browser at a machine, and the server that they send to."""

    def __init__(self, one: Round, context: BrowserContext) -> None:
        self.one, self.context = one, context
        self.process = one.served()
        page = context.new_page()
        page.goto(f"{one.address}/sign-in/")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.locator('a[href*="/p/"]').first.click()
        self.build = page.url.split("/p/")[0] + "/p/" + page.url.split("/p/")[1].split("/")[0] + "/build/"
        self.tabs, self.away = [page, context.new_page()], 0
        self.opened()
        page.locator("#more-open").tap()
        page.locator("#keep-here").tap()
        page.wait_for_function("() => document.querySelector('#keep-here').textContent.startsWith('Kept')",
                               timeout=KEPT_MS)

    def opened(self) -> None:
        """Both tabs show the work, signed in."""
        for tab in self.tabs:
            until = time.monotonic() + LONGEST_S
            while time.monotonic() < until:
                try:
                    tab.goto(self.build)
                    if "/sign-in/" in tab.url:
                        tab.get_by_role("button", name="Enter the demo workshop").click()
                        continue
                    tab.wait_for_selector("form[data-tick]", timeout=5000)
                    break
                except Error:
                    time.sleep(0.5)

    def press(self, tab: Page, number: int) -> None:
        """One note, as a thumb does it: whatever becomes of it."""
        until = time.monotonic() + LONGEST_S
        while time.monotonic() < until:
            try:
                tab.wait_for_selector("form[data-tick]", timeout=2000)
                tab.evaluate(PRESS, number)
                tab.wait_for_timeout(PAUSE_MS)
                return
            except Error:  # signed out, and nothing is kept here any more: the way in needs the network
                self.context.set_offline(False)
                self.opened()
        raise RuntimeError(f"act {number} could not be pressed")

    def fault(self, kind: str, dice: random.Random) -> None:
        """Something goes wrong about the next acts."""
        if kind == "signed out":
            self.context.clear_cookies()
        elif kind == "killed":
            self.one.kill(self.process, everything=dice.random() < 0.5)
            self.process = self.one.served()
        elif kind == "no network":
            self.away = dice.randint(*AWAY)
            self.context.set_offline(True)
        else:
            self.context.route("**/build/tick/*", lambda route: self._drop(route, answered=kind[0] == "a"), times=1)

    def pressed(self) -> None:
        """One act more was pressed: the network comes back in time."""
        self.away -= 1
        if self.away == 0:
            self.context.set_offline(False)

    @staticmethod
    def _drop(route: Route, answered: bool) -> None:
        if answered:  # the server has taken it, and nobody hears of it
            route.fetch()
        route.abort()

    def waiting(self) -> int:
        """How many still wait in the browser once it has the network again: it is left alone while they grow fewer."""
        self.context.set_offline(False)
        self.opened()
        left, until = self.tabs[0].evaluate(WAITING), time.monotonic() + LONGEST_S
        while left and time.monotonic() < until:
            time.sleep(1)
            if (now := self.tabs[0].evaluate(WAITING)) < left:
                left, until = now, time.monotonic() + LONGEST_S
        return left

    def kept(self) -> Counter[str]:
        """The notes that are on record, how often each."""
        own = folder.DataFolder("demo", self.one.var / "demo")
        there = access.Access("127.0.0.1", int(own.running()["database_port"]), "loadstar",
                              own.secrets()["database"], "loadstar")
        rows = access.ask(there, "SELECT note FROM loadstar.records_buildentry WHERE note LIKE 'act %'")
        return Counter(row[0] for row in rows)


def main() -> int:
    """So many acts through so many faults."""
    parser = argparse.ArgumentParser(prog="python tools/acts.py", description=__doc__)
    parser.add_argument("--acts", type=int, default=1000)
    parser.add_argument("--faults", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    dice = random.Random(given.seed)
    when = dict(zip(dice.sample(range(given.acts), given.faults), dice.choices(*zip(*FAULTS.items(), strict=True),
                                                                             k=given.faults), strict=True))
    one = Round(Path(MEMORY / f"loadstar-acts-{given.seed}"))
    try:
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path="/usr/bin/chromium")
            bench = Bench(one, browser.new_context(**TELEPHONE))
            for number in range(given.acts):
                if number in when:
                    bench.fault(when[number], dice)
                bench.press(dice.choice(bench.tabs), number)
                bench.pressed()
            waiting, found = bench.waiting(), bench.kept()
            browser.close()
    finally:
        one.end()
    lost = [n for n in range(given.acts) if not found[f"act {n}"]]
    twice = [words for words, times in found.items() if times > 1]
    print(f"{given.acts} acts, {dict(Counter(when.values()))}: {len(lost)} not on record, {len(twice)} twice, "
          f"{waiting} still wait in the browser")
    return 1 if lost or twice or waiting else 0


if __name__ == "__main__":
    sys.exit(main())
