"""A person at work, in a process that will be killed: ``python -m tests.hard.working FOLDER SEED FIRST``.

Edits, saves, fits and recoveries one after another on a desk without a window. Every edit writes a number that only grows into the
notes of the case, and says it on the standard output with the time of day before it is made.
"""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

from tests.session.conftest import E, Ear, bouncing
from yapa.case import Case
from yapa.session.desk import Desk
from yapa.session.edits import Edit
from yapa.session.recovery import Recovery


def number_of(case: Case) -> int:
    """The number of the last edit in a case."""
    return int(case.notes) if case.notes.isdigit() else 0


def say(word: str, number: int) -> None:
    """One line for who watches; a line is whole or not there."""
    sys.stdout.write(f"{word} {number} {time.time():.4f}\n")
    sys.stdout.flush()


def work(folder: Path, seed: int, first: int) -> None:
    """Work until killed."""
    chance, ear = random.Random(seed), Ear()
    desk = Desk(ear, Recovery(folder / "state"))
    path = folder / "case.yapa"
    lost = max(desk.autosave.recovery.found(), key=lambda f: number_of(Recovery.read(f).case), default=None)
    if lost is not None:
        say("recovering", first)
        desk.opener.recover(lost)
        ear.until(lambda: desk.case is not None)
    elif path.exists():
        desk.opener.load(path)
        ear.until(lambda: desk.case is not None)
    else:
        desk.open_case(bouncing("work"))
    number = max(first, number_of(desk.case))
    say("ready", number)
    while True:
        number += 1
        say("edit", number)
        what = chance.random()
        if what < 0.5:
            desk.edit(desk.case.model_copy(update={"notes": str(number)}), "note")
        else:
            desk.make(Edit("note", lambda c, n=number: c.model_copy(update={"notes": str(n)})))
            desk.set_number(E, round(chance.uniform(0.4, 0.9), 4))
        if chance.random() < 0.05:
            say("saving", number)
            desk.saver.save(path, overwrite=True)
            ear.until(lambda: not desk.saver.busy)
            if desk.is_clean:
                say("saved", number)
        if chance.random() < 0.03 and not desk.fits.running:
            desk.fits.start()
        end = time.monotonic() + chance.choice((0.0, 0.01, 0.05, 0.3, 1.0))
        while time.monotonic() < end:
            ear.hear()
            time.sleep(0.002)
        ear.hear()


if __name__ == "__main__":
    work(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]))
