"""`yapa check`: what may be wrong with a case."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import (
    load_stamped,
    outside_option,
    overwrite_option,
)
from yapa.cli.exit_codes import TROUBLE
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, say, write_json
from yapa.errors import bad_input


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--before", is_flag=True, help="only what can be told without a run")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the findings here")
@click.option("--fix", "--mend", "mends", multiple=True, metavar="KEY", help="apply the mend of this finding and save the case")
@click.option("--dismiss", multiple=True, metavar="KEY", help="never tell this finding for this case again, and save the case")
@click.option("--strict", is_flag=True, help="exit with 1 where there is trouble")
@set_option
@outside_option
@overwrite_option
def check(case: Path, before: bool, strict: bool, json_path: Path | None, mends: tuple[str, ...], dismiss: tuple[str, ...],
          settings: tuple[str, ...], allow_outside: bool, overwrite: bool) -> None:
    """Say what may be wrong with a case and why something does not happen."""
    from yapa import api
    from yapa.api import Cancelled

    claim([case], json_path)
    if settings and (mends or dismiss):
        raise bad_input("--set", "--fix or --dismiss beside it", "one of them: what they save is the case as it stands in its file")
    loaded, stamp = load_stamped(case, allow_outside)
    loaded = with_set(loaded, settings)
    with watched("checking") as watch:
        try:
            findings = api.check(loaded, not before, watch.cancel)
        except Cancelled:
            watch.leave_if_stopped()
            raise
    changed = loaded
    for key in (*mends, *dismiss):
        chosen = next((f for f in findings if f.key == key), None)
        if chosen is None or (key in mends and chosen.mend is None):
            keys = [f.key for f in findings if f.mend is not None or key in dismiss]
            raise bad_input("--fix" if key in mends else "--dismiss", key, "one of: " + "; ".join(keys or ["nothing to choose"]))
        if key in mends and chosen.mend is not None:
            changed = chosen.mend.apply(changed)
            say(f"mended: {chosen.mend.label}")
        else:
            changed = changed.model_copy(update={"ignored_findings": (*changed.ignored_findings, key)})
            say(f"dismissed: {key}")
    if changed is not loaded:
        save_to(case, changed, case, overwrite, stamp)
        return
    if json_path:
        write_json(json_path, [{"key": f.key, "kind": f.kind, "about": f.about, "weight": f.severity, "symptom": f.symptom,
                                 "cause": f.cause, "mend": f.mend.label if f.mend else None} for f in findings])
    for f in findings:
        say(f"{f.severity}  {f.about}: {f.symptom}")
        say(f"         {f.cause}")
        if f.mend:
            say(f"         mend: {f.mend.label}  (--fix {f.key!r})")
        for other in f.also:
            say(f"         or: {other.label}")
    say(f"{sum(f.severity == 'trouble' for f in findings)} troubles, {sum(f.severity == 'note' for f in findings)} notes")
    if strict and any(f.severity == "trouble" for f in findings):
        raise SystemExit(TROUBLE)
