"""jaklet trial"""

from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.cli.rehearse import FromOption
from jaklet.core.values.errors import JakletError, UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from jaklet.checks.run import CheckedConfig
    from jaklet.cli.resources import OpenedConfig
    from jaklet.core.language.trials import Trial
    from jaklet.desktops.tabletop.room import Room
    from jaklet.rehearsal.stage import PressResult
    from jaklet.rehearsal.trials import TrialResult


def trial(
    names: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[NAME...]", help="Trials to run, instead of all; with --write, chords.", show_default=False
        ),
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    source: FromOption = None,
    prove: Annotated[
        bool, typer.Option("--prove", help="Try every recall key in every layout, focus and layer.")
    ] = False,
    write: Annotated[
        bool, typer.Option("--write", help="Press the chords, and write what comes of it as a new trial.")
    ] = False,
    name: Annotated[
        str | None, typer.Option("--name", metavar="NAME", help="What the new trial is called.", show_default=False)
    ] = None,
    junit: Annotated[
        str | None,
        typer.Option("--junit", metavar="FILE", help="Write the results as JUnit XML, too.", show_default=False),
    ] = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Run the trials of the config on tabletops, not on a real desk.

    \b
    trials:                       # in the config, or in trials/NAME.yaml beside it
      departures by key:
        press: [super+b, super+1]
        expect: [layout is departures, berths at left 2/3 on main, nothing lost]

    Exit status 1 if one failed. Each runs on all `display sets` of the settings, and its chords have to be
    on every keyboard of the settings.

    Example: jaklet trial && jaklet reload
    """  # noqa: D301  # a backspace tells Typer to leave the example's lines as they are
    from jaklet.checks.run import shelf_of
    from jaklet.cli.resources import OpenedConfig, checked_config, usable_config
    from jaklet.config.paths import locate_config

    result = checked_config(config, desk)
    ready = OpenedConfig(usable_config(result), shelf_of(locate_config(config)), desk)
    if write:
        _write_trial(names or [], name, source, desk, result, ready)
        return
    if prove:
        _prove(names, source, desk, ready, form)
        return
    results = list(_run(_chosen(names or [], result), result, ready, source, desk))
    _report(results, ready, form, junit)
    raise typer.Exit(0 if all(one.passed for one in results) else 1)


def _chosen(names: list[str], result: "CheckedConfig") -> "list[Trial]":
    from jaklet.core.values.words import did_you_mean

    trials = {one.name: one for one in result.reading.trials}
    for name in names:
        if name not in trials:
            raise UsageError(
                f"no trial is called {name!r}", did_you_mean(name, trials, "write one: jaklet trial --write")
            )
    if not trials:
        raise UsageError("there are no trials", "record one: jaklet trial --write super+b super+left")
    return [trials[name] for name in names] if names else [*trials.values()]


def _run(
    trials: "list[Trial]", result: "CheckedConfig", ready: "OpenedConfig", source: str | None, desk: str | None
) -> "Iterator[TrialResult]":
    from jaklet.rehearsal.stage import RehearsalInputs
    from jaklet.rehearsal.trials import run_trial, with_displays

    basis = RehearsalInputs(ready.config, ready.shelf)
    rooms: dict[str, Room] = {}
    for one in trials:
        room = rooms.setdefault(one.start, _room(one, result, ready, source, desk))
        for where, displays in _sets(one, ready):
            began = perf_counter()
            its = with_displays(room, displays) if displays else room
            done = run_trial(one, basis, its, where, result.case.keyboards)
            yield done._replace(seconds=perf_counter() - began)


def _room(one: "Trial", result: "CheckedConfig", ready: "OpenedConfig", source: str | None, desk: str | None) -> "Room":
    """Return the tabletop of a trial: the file that it names, beside its own; else the one that is asked for."""
    from jaklet.cli.rehearsing import room_from

    if not one.start:  # not that of --desk, which is another one after each command
        return room_from(source, desk if source else None, ready.config)
    path = result.reading.files[one.spot.path].parent / one.start
    if not path.is_file():
        raise JakletError(f"{one.spot}: there is no tabletop at {path}", "`jaklet tabletop new FILE` makes one")
    return room_from(str(path), desk, ready.config)


def _sets(one: "Trial", ready: "OpenedConfig") -> "Iterator[tuple[str, tuple]]":  # type: ignore[type-arg]
    """Yield the displays that a trial runs on, with what they are called; none for those of its tabletop."""
    from jaklet.core.actions.layouts.imagining import parse_displays

    known = dict(ready.config.settings.display_sets)
    wanted = one.displays or tuple(known)
    for name in wanted:
        yield name, parse_displays(known.get(name, name), ready.config)
    if not wanted:
        yield "", ()


def _report(results: "list[TrialResult]", ready: "OpenedConfig", form: OutputFormat, junit: str | None) -> None:
    from jaklet.drawing.trial_reports import junit_xml, results_data, results_text
    from jaklet.files import write_whole

    if form is OutputFormat.json:
        terminal.say_json(results_data(results))
    else:
        terminal.say(results_text(results, ready.config, terminal.wide_columns(), terminal.ink_for()))
    if junit:
        try:
            write_whole(Path(junit), junit_xml(results))
        except OSError as fault:
            raise JakletError(f"{junit} cannot be written: {fault.strerror}", "choose another file") from fault
        terminal.warn(f"the results are in {junit}")


def _prove(
    names: list[str] | None, source: str | None, desk: str | None, ready: "OpenedConfig", form: OutputFormat
) -> None:
    from jaklet.cli.rehearsing import room_from
    from jaklet.drawing.trial_reports import proof_data, proof_text
    from jaklet.rehearsal.proving import prove
    from jaklet.rehearsal.stage import RehearsalInputs

    if names:
        raise UsageError("--prove takes no names", "leave them out: all recall keys are tried")
    began = perf_counter()
    proof = prove(RehearsalInputs(ready.config, ready.shelf), room_from(source, desk, ready.config))
    seconds = round(perf_counter() - began, 3)
    if form is OutputFormat.json:
        terminal.say_json(proof_data(proof, seconds))
    else:
        terminal.say(proof_text(proof, seconds, terminal.ink_for()))
    raise typer.Exit(0 if proof.holds else 1)


def _refuse_if_nothing_came(acts: "Sequence[PressResult]") -> None:
    """Raise where the chords have failed and changed nothing."""
    failed = [line.text for act in acts for line in act.lines if line.failed]
    if failed and not any(act.before != act.after for act in acts):
        raise JakletError(
            f"nothing was recorded, as {acts[-1].pressed} changed nothing: {failed[-1]}",
            "begin with a chord that opens what it is about: jaklet trial --write super+b super+left",
        )


def _trial_text(name: str, start: str, chords: list[str], expected: list[str]) -> str:
    """Return a trial as the text of its file."""
    from jaklet.files import yaml_line

    lines = ["trials:", f"  {yaml_line(name)}:", f"    from: {yaml_line(start)}", "    press:"]
    lines += [f"    - {yaml_line(chord)}" for chord in chords]
    lines += ["    expect:", *(f"    - {yaml_line(one)}" for one in expected)]
    return "\n".join(lines) + "\n"


def _write_trial(
    chords: list[str],
    name: str | None,
    source: str | None,
    desk: str | None,
    result: "CheckedConfig",
    ready: "OpenedConfig",
) -> None:
    """Record what chords do now as a trial in a file of its own; the tabletop it begins with is kept beside it."""
    import re

    from jaklet.cli.rehearsing import play, room_from, stage_for
    from jaklet.config.paths import TRIALS
    from jaklet.desktops.tabletop.file import write_room
    from jaklet.files import write_new
    from jaklet.rehearsal.trials import record_expectations

    if not chords:
        raise UsageError("no chord is given", "write some: jaklet trial --write super+b super+left")
    name = name or " ".join(chords)
    if any(one.name == name for one in result.reading.trials):
        raise UsageError(f"a trial is called {name!r} already", "give this one another name: --name NAME")
    room = room_from(source, desk, ready.config)
    stage = stage_for(ready, room)
    acts = play(stage, chords)
    _refuse_if_nothing_came(acts)
    folder = result.path.parent / TRIALS
    slug = re.sub(r"[^\w.-]+", "-", name).strip("-") or "trial"
    path, start = folder / f"{slug}.yaml", folder / f"{slug}-desk.yaml"
    expected = record_expectations(stage.desk, stage, ready.config)
    try:
        folder.mkdir(exist_ok=True)
        write_new(path, _trial_text(name, start.name, chords, expected))
    except FileExistsError as fault:
        raise UsageError(f"{path} is there already", "give the trial another name: --name NAME") from fault
    except OSError as fault:
        raise JakletError(f"{path} cannot be written: {fault.strerror}", "see to its folder") from fault
    write_room(room, start, ready.config.role_of)
    told = [*(f"{act.pressed}: {act.meaning}" for act in acts), f"{path}: expects", *(f"  {one}" for one in expected)]
    terminal.say("\n".join(told))
