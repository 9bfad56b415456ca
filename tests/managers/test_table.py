"""The table of window managers: what came of tests, in words."""

from tests.managers.table import ASPECTS, MARK, Result, table, written


def test_the_table_says_what_came_of_it() -> None:
    first, second, third, fourth = list(ASPECTS)[:4]
    results = [
        Result("quay", first, "passed"), Result("quay", first, "passed", ("It cannot dive.",)),
        Result("pier", first, "passed"), Result("pier", first, "failed"),
        Result("quay", second, "skipped"), Result("quay", second, "passed"), Result("pier", second, "skipped"),
        Result("pier", third, "passed", ("It cannot swim.", "It cannot dive.")),
        Result("quay", fourth, "passed"), Result("pier", fourth, "passed"),
    ]  # fmt: skip
    lines = table(results, ["quay", "pier"]).splitlines()
    assert lines[0] == "| | quay | pier |"
    assert [line.split(" | ", 1)[1] for line in lines[2:5]] == [
        "yes, but (1) | **no** |", "yes | not tried |", "not tried | yes, but (2, 1) |",
    ]  # fmt: skip
    notes = lines.index("")
    assert lines[notes:] == [
        "", "1. It cannot dive.", "2. It cannot swim.", "", "Yes, with every one of them:", "", f"- {ASPECTS[fourth]}",
    ]  # fmt: skip
    assert not any(ASPECTS[fourth] in line for line in lines[:notes])
    page = written(f"# Desks\n{MARK}\nold\n{MARK}\nend\n", "new\n")
    assert page == f"# Desks\n{MARK}\nnew\n{MARK}\nend\n"
