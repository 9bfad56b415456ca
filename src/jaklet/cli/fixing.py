"""`jaklet check --fix`: free chords put into the files, one conflict after another."""

import sys
from collections.abc import Callable
from typing import TYPE_CHECKING

import typer

from jaklet.cli import terminal
from jaklet.core.values.errors import UsageError
from jaklet.core.values.findings import Finding
from jaklet.core.values.words import counted

if TYPE_CHECKING:
    from jaklet.checks.run import Checked

Run = Callable[[], "tuple[Checked, list[Finding]]"]
MOST = 500  # fixes in one go; each removes a finding, so that this many are never reached
SKIP, STOP = "s", "q"


def mend(run: Run, yes: bool) -> None:
    """Go through the findings with cures; ask for each which to take, or take the first. Only the chord is written."""
    from jaklet.config.edit import replaced, write_edited
    from jaklet.drawing.findings import findings_text

    if not yes and not (sys.stdin.isatty() and sys.stderr.isatty()):
        raise UsageError("nobody is here to choose", "add --yes to take the first free chord each time")
    left_alone: set[tuple[str, str]] = set()
    mended = 0
    for _ in range(MOST):
        result, findings = run()
        # What a finding says names the chord, so that the same words are the same finding wherever its line is now.
        found = next((one for one in findings if one.cures and (one.code, one.cause) not in left_alone), None)
        if found is None:
            break
        left_alone.add((found.code, found.cause))
        source = result.reading.sources[found.spot.path]
        if not yes:
            terminal.warn(findings_text([found], {source.path: source.lines}, terminal.ink_for(sys.stderr)))
        cure = found.cures[0] if yes else _chosen(found)
        if cure == STOP:
            break
        if cure == SKIP:
            continue
        was = source.line(found.spot.line)[found.spot.column - 1 : found.spot.end - 1]
        write_edited(result.reading.files[found.spot.path], source, replaced(source, found.spot, cure))
        terminal.say(f"{found.spot}: {was} is now {cure} ({found.code})")
        mended += 1
    terminal.say(f"{counted(mended, 'chord')} changed" if mended else "nothing was changed")
    terminal.say("")


def _chosen(found: Finding) -> str:
    """Ask which free chord to take."""
    choices = {str(number): cure for number, cure in enumerate(found.cures, 1)}
    for number, cure in choices.items():
        terminal.warn(f"  {number}  {cure}")
    answer = typer.prompt(
        f"Which? ({'/'.join(choices)}, {SKIP} to leave it, {STOP} to stop)", default=SKIP, show_default=False, err=True
    )
    return choices.get(answer.strip(), STOP if answer.strip() == STOP else SKIP)
