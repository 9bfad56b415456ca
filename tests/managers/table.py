"""What came of the suite, as a table for docs/desks.md: one row for what is tried, one column for each manager."""

from collections.abc import Iterable, Mapping
from typing import Final, NamedTuple

MARK: Final = "<!-- managers -->"
LIMIT: Final = "limit"  # the property of a test's report that says what a manager cannot do, and what Jaklet says
# What each test of the suite is about, in the words of the table.
ASPECTS: Final[Mapping[str, str]] = {
    "test_places_are_exact_on_every_display": "places are exact on every display, also with a shadow of the program's own",
    "test_a_window_tiled_by_its_manager_is_taken_out_of_that_first": "a window tiled by the manager is taken out of that",
    "test_windows_with_limits_stand_at_the_named_edge": "steps, least and fixed sizes",
    "test_a_window_that_refuses_is_read_back_and_reported": "a window that refuses is told of",
    "test_pair_and_spread_cover_a_display_exactly": "pair, spread",
    "test_swap_send_and_undo": "swap, send, undo",
    "test_alternatives_are_walked_through": "alternatives, pressed three times",
    "test_a_lost_window_is_gathered_at_its_size": "gather",
    "test_an_order_and_the_focus_come_back_each_time": "two layouts, twenty flips: frames, order, focus",
    "test_every_state_comes_back": "minimised, maximised, fullscreen, kept above come back",
    "test_a_minimised_window_is_shown_again_and_nothing_else_changes": "a minimised window is shown again",
    "test_workspaces_come_back": "workspaces come back",
    "test_what_nobody_asked_for_does_not_change": "what nobody asked for does not change, by twenty actions",
    "test_all_is_true_in_company": "what is said is so, in the company of others",
    "test_a_window_that_takes_no_focus_is_raised_and_the_answer_says_so": "a window that takes no focus is raised",
    "test_a_dialog_stays_with_its_app": "a dialog stays with its app, also in a recall",
    "test_a_window_that_opens_without_the_focus_gets_it": "a program that opens without the focus gets it",
    "test_an_edge_that_the_config_keeps_free_is_left_free": "`reserve`: an edge that is to be left free",
    "test_each_chord_is_heard_or_its_silence_is_told": "keys with each modifier",
    "test_only_what_is_held_is_called_held": "`check --live` names what is held, and nothing else",
    "test_a_chord_is_heard_with_a_lock_on": "keys with Caps Lock and Num Lock on",
    "test_cards_come_over_everything_and_the_focus_is_right_afterwards": "cards come over all windows, and take no focus",
    "test_what_comes_and_goes_in_bursts_is_arranged_exactly": "workspaces and displays that stay arranged",
    "test_no_window_is_new_when_the_manager_is_restarted": "a restart makes no window new",
    "test_another_manager_takes_over": "another manager takes over",
    "test_a_display_goes_and_comes": "a display goes and comes",
}


class Result(NamedTuple):
    """What came of one test: for which manager, `passed`, `failed` or `skipped`, and the limits that it has found."""

    manager: str
    test: str
    outcome: str
    limits: tuple[str, ...] = ()


def table(results: Iterable[Result], managers: Iterable[str]) -> str:
    """Return the table, with the limits as notes under it, and a list of what all managers do without one."""
    found: dict[tuple[str, str], list[Result]] = {}
    for one in results:
        found.setdefault((one.test, one.manager), []).append(one)
    managers, notes = list(managers), dict[str, int]()
    rows, alike = [f"| | {' | '.join(managers)} |", "|---" * (len(managers) + 1) + "|"], list[str]()
    for test, words in ASPECTS.items():
        cells = [_cell(found.get((test, manager), []), notes) for manager in managers]
        if {*cells} == {"yes"}:
            alike.append(f"- {words}")
        else:
            rows.append(f"| {words} | {' | '.join(cells)} |")
    told = [f"{number}. {words}" for words, number in notes.items()]
    return "\n".join([*rows, "", *told, "", "Yes, with every one of them:", "", *alike]) + "\n"


def _cell(results: list[Result], notes: dict[str, int]) -> str:
    outcomes = {one.outcome for one in results} - {"skipped"}
    if "failed" in outcomes:
        return "**no**"
    if not outcomes:
        return "not tried"
    limits = dict.fromkeys(limit for one in results for limit in one.limits)
    numbers = [str(notes.setdefault(limit, len(notes) + 1)) for limit in limits]
    return f"yes, but ({', '.join(numbers)})" if numbers else "yes"


def written(page: str, text: str) -> str:
    """Return a page with the table put between its marks."""
    head, _, rest = page.partition(MARK)
    return f"{head}{MARK}\n{text}{MARK}{rest.partition(MARK)[2]}"
