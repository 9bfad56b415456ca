"""`jaklet check --fix`: free chords put into the files, one conflict after another, or all with one base at once."""

import sys
from collections.abc import Callable, Iterable, Mapping, Sequence
from difflib import unified_diff
from pathlib import Path
from typing import TYPE_CHECKING, Final

import typer

from jaklet.cli import terminal
from jaklet.core.values.errors import JakletError, UsageError
from jaklet.core.values.findings import Finding
from jaklet.core.values.words import counted, listed

if TYPE_CHECKING:
    from jaklet.checks.run import CheckedConfig
    from jaklet.cli.live import UnofferedChords
    from jaklet.config.paths import ConfigPaths
    from jaklet.config.reading import ConfigReading
    from jaklet.yaml_files.reader import SourceFile

Run = Callable[[], "tuple[CheckedConfig, list[Finding]]"]
MOST = 500  # fixes in one go; each removes a finding, so that this many are never reached
SKIP, STOP = "s", "q"
# What is said of chords that work all the same: nobody's key is moved without being asked, unless it is named.
WORKS: Final = frozenset({"JK212", "JK214"})


def mend(run: Run, yes: bool, chords: Sequence[str] = ()) -> None:
    """Go through the findings with cures; ask for each which to take, or take the first. Only the chord is written.

    `chords`: those that are to be changed, where they are named; with `yes` others that work now are left alone.
    """
    from jaklet.config.edit import replace_stretch, write_edited
    from jaklet.drawing.findings import findings_text

    if not yes and not (sys.stdin.isatty() and sys.stderr.isatty()):
        raise UsageError("nobody is here to choose", "add --yes to take the first free chord each time")
    left_alone: set[tuple[str, str]] = set()
    mended = 0
    for _ in range(MOST):
        result, findings = run()
        # What a finding says names the chord, so that the same words are the same finding wherever its line is now.
        found = next(
            (
                one
                for one in findings
                if one.cures
                and (one.code, one.cause) not in left_alone
                and (_chord_at(result, one) in chords if chords else not (yes and one.code in WORKS))
            ),
            None,
        )
        if found is None:
            break
        source = result.reading.sources[found.spot.path]
        if not yes:
            terminal.warn(findings_text([found], {source.path: source.lines}, terminal.ink_for(sys.stderr)))
        cure = found.cures[0] if yes else _chosen(found)
        if cure == STOP:
            break
        if cure == SKIP:
            left_alone.add((found.code, found.cause))
            continue
        was = source.line(found.spot.line)[found.spot.column - 1 : found.spot.end - 1]
        write_edited(result.reading.files[found.spot.path], source, replace_stretch(source, found.spot, cure))
        terminal.say(f"{found.spot}: {was} is now {cure} ({found.code})")
        mended += 1
    terminal.say(f"{counted(mended, 'chord')} changed" if mended else "nothing was changed")
    terminal.say("")


def _chord_at(result: "CheckedConfig", found: Finding) -> str:
    return result.reading.sources[found.spot.path].line(found.spot.line)[found.spot.column - 1 : found.spot.end - 1]


def move_base(
    result: "CheckedConfig",
    config: str | None,
    desk: str | None,
    moves: tuple[int, int],
    yes: bool,
    unoffered: "UnofferedChords | None" = None,
) -> None:
    """Move every chord with one base modifier to another: checked as a whole, shown, and then written.

    `moves`: the modifiers that are to go, and those that come in their place; `unoffered`: asks the desk about the new.
    """
    from jaklet.config.edit import write_edited
    from jaklet.config.paths import locate_config
    from jaklet.config.rebase import chords_after, kept_chords, rebased_files
    from jaklet.drawing.findings import findings_text

    if not all(moves):
        raise UsageError("a base needs a modifier", "write it like: --base ctrl+alt")
    reading = result.reading
    texts = rebased_files(reading, *moves)
    if not texts:
        terminal.say("nothing was changed: no chord has that base")
        terminal.say("")
        return
    wrong, sources = new_errors(result, texts, locate_config(config), desk, "move its chords by hand")
    if wrong:
        lines = {path: source.lines for path, source in sources.items()}
        terminal.warn(findings_text(wrong, lines, terminal.ink_for(sys.stderr)))
        raise JakletError("with that base the config would have errors", "nothing was written; take another one")
    say_difference(reading, texts)
    if stay := kept_chords(reading, *moves):
        terminal.say(f"these stay, as they would be the chords of others: {listed(stay)}")
    if unoffered:
        after = chords_after(reading, *moves)
        unheard = unoffered.among(after)
        if others := sorted(str(chord) for chord in after if unheard.has(chord)):
            terminal.say(f"not heard on this desk, where others have them: {listed(others)}; bind these otherwise")
    if not yes:
        if not (sys.stdin.isatty() and sys.stderr.isatty()):
            raise UsageError("nothing was written: nobody is here to say yes", "add --yes")
        if not typer.confirm("Write this?", err=True):
            terminal.say("nothing was changed")
            return
    for path, text in texts.items():
        write_edited(reading.files[path], reading.sources[path], text)
    terminal.say(f"{counted(len(texts), 'file')} written")
    terminal.say("")


def say_difference(reading: "ConfigReading", texts: Mapping[str, str]) -> None:
    """Show how files would change, as a unified diff without lines around."""
    for path, text in texts.items():
        old = reading.sources[path].text.splitlines(keepends=True)
        difference = unified_diff(old, text.splitlines(keepends=True), path, path, n=0)
        terminal.say("".join(line if line.endswith("\n") else f"{line}\n" for line in difference).rstrip("\n"))


def new_errors(
    result: "CheckedConfig", texts: Mapping[str, str], places: "ConfigPaths", desk: str | None, remedy: str
) -> "tuple[list[Finding], Mapping[str, SourceFile]]":
    """Return the errors that a config would have with other texts, and has not now, and the texts; nothing is written.

    Raises `JakletError` with this remedy where a part of the config lies outside its folder.
    """
    after = checked_with(result, texts, places, desk, remedy)
    # It was checked in another folder; what is wrong is told of where it would stand.
    known = {path.resolve().relative_to(result.path.parent): name for name, path in result.reading.files.items()}
    names = {
        name: known.get(path.resolve().relative_to(after.path.parent), name)
        for name, path in after.reading.files.items()
    }
    wrong = new_among(after.errors, result.errors)
    told = [one._replace(spot=one.spot._replace(path=names.get(one.spot.path, one.spot.path))) for one in wrong]
    sources = {names.get(name, name): source for name, source in after.reading.sources.items()}
    return told, sources


def new_among(after: Iterable[Finding], before: Iterable[Finding]) -> list[Finding]:
    """Return the findings that were not there before; where they stand may have changed."""
    known = {(one.code, one.cause) for one in before}
    return [one for one in after if (one.code, one.cause) not in known]


def checked_with(
    result: "CheckedConfig",
    texts: Mapping[str, str],
    places: "ConfigPaths",
    desk: str | None,
    remedy: str,
    *keyboards: str,
) -> "CheckedConfig":
    """Return a config as it would be with other texts, checked; nothing is written.

    Raises `JakletError` with this remedy where a part of the config lies outside its folder.
    """
    from tempfile import TemporaryDirectory

    from jaklet.cli.resources import checked_config
    from jaklet.config.rebase import copy_config

    with TemporaryDirectory(prefix="jaklet-") as name:
        beside = (places.layouts, places.config.parent / "trials")
        there = copy_config(result.reading, texts, places.config, Path(name), beside)
        if there is None:
            raise JakletError("a part of the config lies outside its folder", remedy)
        return checked_config(str(there), desk, keyboards)


def _chosen(found: Finding) -> str:
    """Ask which free chord to take."""
    choices = {str(number): cure for number, cure in enumerate(found.cures, 1)}
    for number, cure in choices.items():
        terminal.warn(f"  {number}  {cure}")
    answer = typer.prompt(
        f"Which? ({'/'.join(choices)}, {SKIP} to leave it, {STOP} to stop)", default=SKIP, show_default=False, err=True
    )
    return choices.get(answer.strip(), STOP if answer.strip() == STOP else SKIP)
