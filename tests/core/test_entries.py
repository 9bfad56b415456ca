"""Desktop entries by the letter of the specification."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.config.desktop_entry_apps import with_entry
from jaklet.core.values.apps import App, WindowRule, exactly
from jaklet.core.values.desktop_entries import (
    DesktopEntry,
    EntryError,
    expand_field_codes,
    locale_keys,
    localised_value,
    parse_entry,
    split_list,
    words_of,
)

HEAD = "[Desktop Entry]\nType=Application\nName=Ledger\n"


@given(st.lists(st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), min_size=1), min_size=1))
def test_quoted_words_come_out_as_they_went_in(words: list[str]) -> None:
    quoted = ['"' + "".join(f"\\{c}" if c in '"`$\\' else c for c in word) + '"' for word in words]
    assert words_of(" ".join(quoted)) == words


@pytest.mark.parametrize(
    ("raw", "command"),
    [
        ("ledger", ("ledger",)),
        ("  ledger   --book  %U ", ("ledger", "--book")),
        ('ledger "--book=Harbour dues" x', ("ledger", "--book=Harbour dues", "x")),
        # A backslash of a string value is doubled, and doubled again inside of quotes.
        (r'ledger "a \\$b \\`c\\` \\"d\\" \\\\e"', ("ledger", 'a $b `c` "d" \\e')),
        ("sh -c 'ledger --now; exec true'", ("sh", "-c", "ledger --now; exec true")),
        (r"ledger two\\ words", ("ledger", "two words")),
        ("ledger --name %c --file=%f %k", ("ledger", "--name", "Ledger", "--file=", "/a/ledger.desktop")),
        ("ledger %i %F", ("ledger", "--icon", "book")),
        ("ledger 100%% %d%n", ("ledger", "100%", "")),
        ('ledger ""', ("ledger", "")),
        ("", "its Exec line is empty"),
        ("%U", "its Exec line is empty"),
        ("ledger %x", "its Exec line has %x, which stands for nothing"),
        ("ledger %", "its Exec line has %, which stands for nothing"),
        ('ledger "open', "a quote in its Exec line is not closed"),
    ],
)
def test_exec_lines(raw: str, command: tuple[str, ...] | str) -> None:
    entry = parse_entry("ledger", f"{HEAD}Icon=book\nExec={raw}\n", "/a/ledger.desktop")
    assert (entry.command or entry.fault) == command


@pytest.mark.parametrize(
    ("locale", "keys"),
    [
        ("nl_BE.UTF-8@euro", ["nl_BE@euro", "nl_BE", "nl@euro", "nl"]),
        ("nl_BE.UTF-8", ["nl_BE", "nl"]),
        ("nl@euro", ["nl@euro", "nl"]),
        ("nl", ["nl"]),
        ("C", ["C"]),
        ("", []),
    ],
)
def test_localised_names_are_looked_for_in_the_order_of_the_specification(locale: str, keys: list[str]) -> None:
    assert locale_keys(locale) == keys
    group = {"Name": "Ledger"} | {f"Name[{key}]": key for key in keys}
    assert localised_value(group, "Name", locale) == (keys[0] if keys else "Ledger")
    assert localised_value({"Name": "Ledger", "Name[fr]": "Registre"}, "Name", "nl_BE") == "Ledger"


def test_what_an_entry_says() -> None:
    entry = parse_entry(
        "org.ellery.Ledger",
        "# a remark\n" + HEAD + "Name[nl]=Kasboek\\sblauw\nExec = ledger\nExec=another\nTryExec=ledgerd\nPath=/srv\n"
        "Terminal=true\nNoDisplay=true\nHidden=false\nStartupWMClass=Ledger\nDBusActivatable=true\n"
        "Categories=Office;Fin\\;ance;;\nActions=dues;none;\n[Other]\nExec=no\n"
        "[Desktop Action dues]\nName=Dues\nExec=ledger --dues %U\n",
        locale="nl_NL.UTF-8",
    )
    assert (entry.name, entry.command, entry.try_exec, entry.folder) == (
        "Kasboek blauw",
        ("ledger",),
        "ledgerd",
        "/srv",
    )
    assert (entry.in_terminal, entry.shown, entry.hidden, entry.activated) == (True, False, False, True)
    assert (entry.wm_class, entry.categories) == ("Ledger", ("Office", "Fin;ance"))
    assert entry.actions == {"dues": ("Dues", ("ledger", "--dues")), "none": ("", ())}


@pytest.mark.parametrize(
    "text", ["", "Name=Ledger\n", "[Desktop Entry]\nType=Link\nURL=x\n", "[Desktop Entry]\nType=Directory\n"]
)
def test_what_is_no_application_is_refused(text: str) -> None:
    with pytest.raises(EntryError):
        parse_entry("x", text)


@given(st.text())
def test_any_text_is_read_or_refused(text: str) -> None:
    for form in (text, HEAD + text, f"{HEAD}Exec={text}"):
        try:
            parse_entry("x", form)
        except EntryError as fault:
            assert str(fault)
    split_list(text)


def test_a_field_code_is_filled_in_once() -> None:
    assert expand_field_codes(["x", "%c"], name="100%k", icon="", path="p") == ("x", "100%k")


class Entries:
    """Programs of which all are installed, with one desktop entry."""

    def has(self, _program: str) -> bool:
        return True

    def entry(self, _id: str) -> DesktopEntry:
        return parse_entry("org.ellery.Ledger", HEAD + "Exec=ledger %U\nStartupWMClass=Books\nPath=/srv\n")


@pytest.mark.parametrize("rules", [(), (exactly(cls="Mine"),)])
def test_an_app_keeps_its_own_rules_and_folder_beside_those_of_its_entry(rules: tuple[WindowRule, ...]) -> None:
    app = with_entry(App("ledger", (), rules, "/home" if rules else ""), "org.ellery.Ledger", Entries())  # type: ignore[arg-type]
    assert app.command == ("ledger",)
    named = [(exactly(instance=name), exactly(cls=name)) for name in ("Books", "org.ellery.Ledger")]
    assert app.rules == (rules or (*named[0], *named[1]))
    assert app.folder == ("/home" if rules else "/srv")
