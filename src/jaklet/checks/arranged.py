"""The rules about workspaces that stay arranged: what else would place windows there."""

from collections.abc import Iterator

from jaklet.checks.case import Case
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.sharings import NO


def contrary(case: Case) -> Iterator[Finding]:
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
    for laid in reading.laid:
        for one, spots in zip(laid.layout.arrangements, laid.entry_spots, strict=True):
            for entry, spot in zip(one.entries, spots, strict=True):
                app_of = config.apps.get(entry.app or "")
                if entry.workspace is None or entry.workspace not in config.arranged:
                    continue
                if entry.place is None or (app_of and app_of.arranged == NO):
                    continue
                where = config.workspace_told(entry.workspace)
                problem = f"layout {laid.layout.name} places a window on {where}, which stays arranged"
                yield finding(
                    "JK320", spot, problem=problem, remedy="leave its place out, or `arranged` of that workspace"
                )
