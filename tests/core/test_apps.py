"""Which window is whose: scores, ties, dialogs, launches."""

import pytest

from jaklet.core.actions.window_search import windows_meant
from jaklet.core.language.app_entries import suggestions
from jaklet.core.values.apps import App, AppClaims, WindowRule, exactly
from jaklet.core.values.config import Config
from jaklet.core.values.desk import DIALOG, Desk, Display, Window
from jaklet.core.values.geometry import Rect

SCREEN = (Display("DP-1", Rect(0, 0, 1920, 1080), Rect(0, 0, 1920, 1080), True),)


def app(name: str, *rules: dict[str, str]) -> App:
    return App(name, (name,), tuple(WindowRule(tuple(rule.items())) for rule in rules))


def desk(*windows: Window) -> Desk:
    ids = tuple(window.id for window in windows)
    return Desk(SCREEN, windows, ids, ids[::-1], ids[-1])


LOG = Window(1, instance="radio-log", cls="RadioLog", title="Radio log: today", role="main", process="radio")


@pytest.mark.parametrize(
    ("rules", "owner", "rivals"),
    [
        ([{"class": "RadioLog"}, {"class": "Ledger"}], "a0", ()),
        ([{"class": "RadioLog"}, {"instance": "radio-log"}], "a1", ()),
        ([{"class": "RadioLog", "instance": "radio-log"}, {"role": "main"}], "a1", ()),
        ([{"role": "main"}, {"title": "Radio*"}], "a1", ()),
        ([{"title": "Radio*"}, {"title": "Radio log: today"}], "a1", ()),  # in full says more than a pattern
        ([{"title": "Radio*"}, {"class": "RadioLog", "title": "*"}], "a0", ()),  # a bare star says nothing
        ([{"class": "RadioLog"}, {"class": "Radio*", "process": "radio"}], "a0", ()),
        ([{"kind": "normal"}, {"process": "ra?io"}], "a1", ()),
        ([{"kind": "dialog"}, {"class": "radio-log"}], None, ()),
        ([{"title": "Radio*"}, {"title": "*today"}, {"class": "RadioLog"}], "a0", ("a1",)),
    ],
)
def test_the_rule_that_says_more_has_the_window(
    rules: list[dict[str, str]], owner: str | None, rivals: tuple[str, ...]
) -> None:
    claims = AppClaims(app(f"a{i}", rule) for i, rule in enumerate(rules))
    now = desk(LOG)
    assert (claims.app_of(LOG, now), claims.rivals(LOG, now)) == (owner, rivals)
    # What is told of why agrees with what was decided.
    fitting = [verdict for verdict in claims.verdicts(LOG) if verdict.miss is None]
    assert [verdict.app for verdict in fitting][:1] == ([owner] if owner else [])


def test_any_of_several_rules_will_do() -> None:
    claims = AppClaims([app("log", {"class": "Other"}, {"title": "Radio*"})])
    assert claims.app_of(LOG, desk(LOG)) == "log"


def test_a_dialog_is_its_parents_unless_a_rule_for_dialogs_claims_it() -> None:
    find = Window(2, cls="Finder", title="Find", kind=DIALOG, parent=1)
    deeper = Window(3, cls="Finder", title="Find what?", kind=DIALOG, parent=2)
    now = desk(LOG, find, deeper)
    claims = AppClaims([app("log", {"class": "RadioLog"}), app("finder", {"class": "Finder"})])
    assert [claims.app_of(window, now) for window in now.windows] == ["log"] * 3
    assert claims.windows_of("log", now) == (LOG,)
    assert now.latest((LOG,)) == LOG
    claims = AppClaims([app("log", {"class": "RadioLog"}), app("finder", {"class": "Finder", "kind": "dialog"})])
    assert [claims.app_of(window, now) for window in now.windows] == ["log", "finder", "finder"]
    alone = desk(find)  # its parent has gone
    assert claims.windows_of("finder", alone) == (find,)


def test_windows_that_are_each_others_dialogs_harm_nothing() -> None:
    one, other = Window(1, cls="A", kind=DIALOG, parent=2), Window(2, cls="A", kind=DIALOG, parent=1)
    now = desk(one, other)
    assert AppClaims([app("a", {"class": "A"})]).app_of(one, now) in ("a", None)
    assert {now.family(one).id, now.family(other).id} <= {1, 2}


def test_a_launched_window_is_its_apps_whatever_the_rules_say() -> None:
    claims = AppClaims([app("log", {"class": "RadioLog"}), app("night", {"title": "Night*"})])
    window = LOG._replace(launched_for="night")
    assert claims.app_of(window, desk(window)) == "night"
    stranger = LOG._replace(launched_for="an app of a former config")
    assert claims.app_of(stranger, desk(stranger)) == "log"


@pytest.mark.parametrize(
    ("words", "ids"),
    [("front", [2]), ("0x1", [1]), ("2", [2]), ("log", [1]), ("TODAY", [1]), ("ledg", [2]), ("", [2, 1]), ("zz", [])],
)
def test_a_window_is_meant_by_id_app_or_part_of_its_title(words: str, ids: list[int]) -> None:
    config = Config(apps={"log": app("log", {"class": "RadioLog"})})
    assert [window.id for window in windows_meant(words, desk(LOG, Window(2, cls="Ledger")), config)] == ids


def test_a_suggested_entry_claims_its_window_and_no_other() -> None:
    config = Config(apps={"log": app("log", {"class": "RadioLog"})})
    windows = [
        Window(5, "letters", "Letters*?", "To the pilot", process="letters"),
        Window(6, "letters", "Letters*?", "To the mayor", process="letters"),
        Window(7, "gauge-a", "org.ellery.Gauge", "A"),
        Window(8, "gauge-b", "org.ellery.Gauge", "B"),
        Window(9, "other", "RadioLog", "another program of the same class"),
        Window(10, "", "", "nameless"),
        Window(11, "left", "left", "a word that sentences need"),
    ]
    found = list(suggestions(windows, config, (), {"letters"}.__contains__))
    assert [one.name for one in found] == ["letters", "gauge", "gauge-2", "radio-log", "app", "app-left"]
    assert found[0].keys["launch"] == "letters"
    assert "launch" not in found[1].keys
    assert "launch: PROGRAM" in found[1].remark
    rules = {one.name: dict(one.keys["window"]) for one in found}  # type: ignore[call-overload]
    claims = AppClaims([*config.apps.values(), *(app(name, rule) for name, rule in rules.items() if name != "app")])
    now = desk(*windows)
    assert [claims.app_of(window, now) for window in windows] == [
        "letters", "letters", "gauge", "gauge-2", "radio-log", None, "app-left",
    ]  # fmt: skip


def test_a_rule_of_texts_in_full_matches_signs_as_they_are() -> None:
    rule = exactly(cls="What*?", title="a\\b")
    assert rule.claims(Window(1, cls="What*?", title="a\\b"))
    assert not rule.claims(Window(1, cls="Whatever", title="a\\b"))
