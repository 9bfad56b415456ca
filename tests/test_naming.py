"""The words of the code: a class name means one thing, files say their role, docstrings say the thing that comes back."""

import ast
import re
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "jaklet"
MODULES = {path: ast.parse(path.read_text()) for path in sorted(SOURCE.rglob("*.py")) if path.name != "__init__.py"}
# The same part of each desk, and the port that it is: only these may share a file's name three times.
PARTS_OF_DESKS = {"abilities.py", "chord_source.py", "desktop.py", "surface.py", "typist.py"}
# Participles and questions, which are no nouns: what is it that was told, and where is `Where`?
NO_NOUN = re.compile(
    r"_?([A-Z][a-z]+(?<!Ne)ed|Kept|Told|Held|Lent|Said|Cut|Shown|Drawn|Laid|Bound|Done|Known|Gone|Left|Was|Here|When|Where|Why|How|Written|Taken|Chosen|Hidden|Broken)"
)
RIDDLE = re.compile(r"(Return|Yield|Say|Tell|Give)s? ((as )?what|whatever|how it|that which)\b", re.I)


def definitions() -> Iterator[tuple[str, ast.AST]]:
    for path, tree in MODULES.items():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef | ast.FunctionDef):
                yield f"{path.relative_to(SOURCE)}:{node.lineno} {node.name}", node


def test_a_class_name_is_one_thing_and_a_noun() -> None:
    places = defaultdict(list)
    for where, node in definitions():
        if isinstance(node, ast.ClassDef):
            places[node.name].append(where)
    assert [where for where in places.values() if len(where) > 1] == []
    assert [where for name, where in places.items() if NO_NOUN.fullmatch(name)] == []


def test_a_file_name_says_its_role() -> None:
    names = [path.name for path in MODULES]
    assert {name for name in names if names.count(name) > 2} <= PARTS_OF_DESKS


def test_no_docstring_begins_with_a_riddle() -> None:
    texts = [(where, ast.get_docstring(node) or "") for where, node in definitions()]  # type: ignore[arg-type]
    assert [(where, text.splitlines()[0]) for where, text in texts if RIDDLE.match(text)] == []
    assert RIDDLE.match("Return what is told of what stands there.")
    assert not RIDDLE.match("Return the hover text at a position, or None.")


def test_each_word_of_the_dictionary_is_the_name_in_the_code() -> None:
    """And each kind of thing that a sentence can name is a word of the dictionary."""
    text = (SOURCE.parent.parent / "docs" / "words.md").read_text()
    rows = re.findall(r"^\| ([^|]+) \| [^|\n]*(?:\\\|[^|\n]*)* \| `(\w+)` \|$", text, re.M)
    assert len(rows) > 25
    code = "".join(path.read_text() for path in MODULES)
    for word, name in rows:
        assert re.search(rf"^\s*(class |def |){name}\b( |:|\()", code, re.M), (word, name)
        stem = re.sub(r"[^a-z]", "", word.split(",")[0])[:5]
        assert stem in name.lower() or word in ("sequence", "check, finding", "recall, save", "work area"), (word, name)
    words = {part.strip() for word, _ in rows for part in word.split(",")}
    assert {"app", "layout", "layer", "macro", "place", "display", "workspace"} <= words
