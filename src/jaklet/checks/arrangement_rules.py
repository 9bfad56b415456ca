"""The rules about workspaces that stay arranged: what else would place windows there."""

from collections.abc import Iterator

from jaklet.checks.inputs import CheckInputs
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.sharings import NO


def contrary(case: CheckInputs) -> Iterator[Finding]:
    """JK320: what places windows, or says how they open, where others stay arranged."""
    config, reading = case.config, case.reading
    if not config.arranged and not config.arranged_displays:
        return
    for name, app in config.apps.items():
        placing = next((one for one in app.opens if traits_of(one).floats), None)
        if placing and app.arranged != NO and ("app", name) in reading.spots:
            problem = f"app {name} opens with `{placing}`, so that it never takes part where windows stay arranged"
            remedy = f"write `arranged: no` for it, or leave `{placing}` out"
            yield finding("JK320", reading.spots["app", name], problem=problem, remedy=remedy)
    yield from _placed_there(case)
    yield from _two_forms(case)


def _placed_there(case: CheckInputs) -> Iterator[Finding]:
    """Yield the windows that layouts place where others stay arranged, and do not remember to share there."""
    config = case.config
    for laid in case.reading.laid:
        for one, spots in zip(laid.layout.arrangements, laid.entry_spots, strict=True):
            sharing = {i for its in one.arranged for i in its.order}
            for i, (entry, spot) in enumerate(zip(one.entries, spots, strict=True)):
                app = config.apps.get(entry.app or "")
                number = 0 if entry.workspace is None else config.workspace_number(entry.workspace)
                if number not in config.arranged or i in sharing or entry.place is None:
                    continue
                if app and app.arranged == NO:
                    continue
                where = config.workspace_told(number)
                problem = f"layout {laid.layout.name} places a window on {where}, which stays arranged: it floats there"
                remedy = "save the layout there again, so that it remembers what shares, or leave the place out"
                yield finding("JK320", spot, problem=problem, remedy=remedy)


def _two_forms(case: CheckInputs) -> Iterator[Finding]:
    """Yield the workspaces with a form of their own that a display's form goes before."""
    config = case.config
    if not config.arranged_displays or not set(config.displays) <= set(config.arranged_displays):
        return
    for number, form in config.arranged.items():
        name = config.workspace_written(number)
        spot = case.reading.spots.get(("arranged", str(number)))
        if spot and any(other != form for other in config.arranged_displays.values()):
            problem = f"workspace {name} is to stay arranged as {form}, and every display has a form that goes before"
            yield finding("JK320", spot, problem=problem, remedy="leave one of the two out")
