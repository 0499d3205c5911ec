"""What is said beside an outcome that is pulled: its value, what was asked for, what holds it."""

from __future__ import annotations

from yapa.case import label_of
from yapa.case.units import amount_text
from yapa.session.drag import Drag
from yapa.session.handles import Handle


def pull_words(drag: Drag, handle: Handle) -> list[str]:
    """Return the lines beside a handle: one, and a second where it cannot follow, with what holds it.

    Parameters
    ----------
    drag : of the desk
    handle : the outcome
    """
    unit = handle.target.unit
    if drag.handle is None or drag.handle.name != handle.name:
        return [f"{handle.name}  {amount_text(handle.target.value, unit, '.3f')}"]
    now = drag.frame.now[0] if drag.frame is not None else handle.target.value
    lines = [f"{handle.name}  {amount_text(now, unit, '.3f')} → {amount_text(drag.wanted, unit, '.3f')}"]
    if drag.frame is not None and not drag.frame.reached:
        short = amount_text(abs(drag.frame.gap[0]), unit, ".3f")
        by = list(drag.frame.held_by) or [f"{label_of(path)} at its end" for path in drag.frame.at_ends]
        lines.append(f"short by {short}" + (f": held by {', '.join(by)}" if by else ""))
    return lines
