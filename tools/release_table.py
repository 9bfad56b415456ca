"""Write what came of the suites on a release of Debian into a page: tools/release_table.py PAGE FOLDER.

FOLDER is what `tools/release_suites.sh` has written. The table has one column for each release; that of another
release stays as it is.
"""

import sys
from collections import Counter
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Final
from xml.etree import ElementTree

MARK: Final = "<!-- releases -->"
# Each suite, in the words of the table.
SUITES: Final[Mapping[str, str]] = {
    "core": "Python: all tests without a desktop",
    "gnome": "GNOME Shell: the tests that all desks share, and a day's work",
    "plasma": "KWin on Wayland: the same",
    "xfwm4": "xfwm4 on X11: places, layouts",
    "mutter": "mutter on X11: the same",
    "kwin_x11": "kwin_x11: the same",
}


def result(report: Path, again: Path) -> str:
    """Return how many tests passed, and how many did not, by reports of JUnit's form.

    `again`: the report of those that were tried once more, where there were any.
    """
    kinds = _kinds(report)
    second = _kinds(again) if again.exists() else {}
    found = Counter({**kinds, **{name: kind or "second" for name, kind in second.items()}}.values())
    failed = found["failure"] + found["error"]
    words = [f"{found[''] + found['second']:,} pass"]
    words += [f"{found['second']} of them at the second try"] * bool(found["second"])
    words += [f"**{failed} fail**"] * bool(failed) + [f"{found['skipped']} skipped"] * bool(found["skipped"])
    return ", ".join(words)


def _kinds(report: Path) -> dict[str, str]:
    """Return what has come of each test: `failure`, `error`, `skipped`, or nothing where it has passed."""
    wrong = ("failure", "error", "skipped")
    return {
        f"{case.get('classname')}.{case.get('name')}": next((child.tag for child in case if child.tag in wrong), "")
        for case in ElementTree.parse(report).iter("testcase")
    }


def column(folder: Path) -> dict[str, str]:
    """Return the cells of a release by suite; `release` is the head of the column."""
    rows = dict(line.split("\t") for line in (folder / "versions").read_text().splitlines())
    head = rows.pop("release")
    reports = {name: folder / f"{name}.xml" for name in rows}
    return {"release": head} | {
        name: f"{version}: {result(reports[name], folder / f'{name}-again.xml')}" if reports[name].exists() else version
        for name, version in rows.items()
    }


def written(page: str, cells: Mapping[str, str]) -> str:
    """Return a page whose table has these cells in the column of their release."""
    head, _, rest = page.partition(MARK)
    old, _, foot = rest.partition(MARK)
    rows = [[cell.strip() for cell in line.strip("|").split("|")] for line in old.strip().splitlines()]
    columns = {title: [row[n] for row in rows[2:]] for n, title in enumerate(rows[0]) if n} if rows else {}
    columns[cells["release"]] = [cells.get(name, "not tried") for name in SUITES]
    titles = sorted(columns)
    lines: Iterable[Iterable[str]] = (
        [" ", *titles],
        ["---"] * (len(titles) + 1),
        *zip(SUITES.values(), *(columns[title] for title in titles), strict=True),
    )
    return f"{head}{MARK}\n" + "".join(f"| {' | '.join(line)} |\n" for line in lines) + MARK + foot


if __name__ == "__main__":
    where = Path(sys.argv[1])
    where.write_text(written(where.read_text(), column(Path(sys.argv[2]))))
