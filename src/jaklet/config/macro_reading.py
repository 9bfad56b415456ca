"""The section `macros`: named lists of steps."""

from collections.abc import Mapping
from typing import Any, Final

from jaklet.config.bound_actions import DOING_KEYS
from jaklet.config.reading import ConfigReading, FilledSentence, Mention, WrittenAction, define_once
from jaklet.core.language.actions import parse_action
from jaklet.core.language.conditions import parse_condition
from jaklet.core.language.cursor import NAME
from jaklet.core.language.slots import WITH
from jaklet.core.language.steps import fill_parameters, read_steps, values_of
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import NOTHING, TEXT, Schema, any_of, by_name, ref, some
from jaklet.core.values.macros import DO, GO_ON, REFUSE, REPEAT, REPLACE, STOP, WAIT, WHEN, Macro, WrittenStep
from jaklet.core.values.sentences import Action, names_in, tests_of
from jaklet.core.values.spans import Spot
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

DEEPEST: Final = 12  # steps within steps
FORMS: Final = "an action, or {do, else}, {when, then, else} or {repeat, steps}"


@with_schema(any_of(some(TEXT), by_name(any_of(TEXT, NOTHING))))
def _parameters(value: Value, what: str, found: Found) -> tuple[tuple[str, str | None], ...] | None:
    """Read the parameters: a list of names, or a mapping of names to what they are where nothing is said."""
    if value.is_map:
        pairs = fields.mapping(value, what, found)
        read = [(key, name, None if item.is_empty else fields.text(item, name, found)) for key, name, item in pairs]
    else:
        items = [*value.items()] if value.is_list else [value]
        read = [(item, fields.text(item, what, found) or "", None) for item in items]
    for key, name, _ in read:
        if not NAME.fullmatch(name):
            problem = f"{name!r} cannot be a parameter: it should be one word"
            found.append(finding("JK108", key.spot, problem=problem, remedy="choose a name such as app"))
    return tuple((name, default) for _, name, default in read if NAME.fullmatch(name))


STEPS: Final = fields.later(ref("steps"))
MACRO_KEYS: Final[Table] = {
    "steps": STEPS,
    "with": _parameters,
    "on failure": fields.choice(STOP, GO_ON),
    "while another runs": fields.choice(REFUSE, WAIT, REPLACE),
    "note": fields.text,
}
STEP_KEYS: Final[dict[str, Table]] = {
    DO: {"do": fields.text, "else": STEPS, "sure": DOING_KEYS["sure"]},
    WHEN: {"when": fields.text, "then": STEPS, "else": STEPS},
    REPEAT: {"repeat": fields.text, "steps": STEPS},
}


def steps_schema() -> Schema:
    """Return the schema of steps, some of which have steps inside."""
    return some(
        any_of(
            TEXT, *(table_schema(keys, needed=[kind, *_THEN_NEEDED.get(kind, ())]) for kind, keys in STEP_KEYS.items())
        )
    )


_THEN_NEEDED: Final = {WHEN: ["then"], REPEAT: ["steps"]}
_THEN: Final = {WHEN: "then", REPEAT: "steps"}


@with_schema(lambda: by_name(any_of(ref("steps"), table_schema(MACRO_KEYS, needed=["steps"]))))
def read_macros(value: Value, reading: ConfigReading) -> None:
    """Read the section `macros`: each a list of steps, or a mapping with `steps`."""
    macros = {**reading.config.macros}
    for key, name, item in fields.mapping(value, "macros", reading.found):
        name = " ".join(name.split())
        if not _good(key, name, reading):
            continue
        read: dict[str, Any] = {}
        steps: Value | None = item
        if item.is_map and not any(inner.text in (DO, WHEN, REPEAT) for inner, _ in item.pairs()):
            read = fields.fields(item, f"macro {name}", MACRO_KEYS, reading.found)
            steps = read.get("steps")
        if steps is None or steps.is_empty:
            remedy = f"write {name}: [go berths, place left 2/3]"
            reading.found.append(finding("JK106", key.spot, what=f"macro {name}", key="steps", remedy=remedy))
            steps = None
        written = _steps(steps, f"macro {name}", reading) if steps else ()
        stop, meanwhile, note = read.get("on failure", STOP), read.get("while another runs"), read.get("note", "")
        macros[name] = Macro(name, written, read.get("with", ()), stop, meanwhile, note)
    reading.config = reading.config._replace(macros=macros)


def _good(key: Value, name: str, reading: ConfigReading) -> bool:
    if not define_once("macro", key, name, reading):
        return False
    words = name.split()
    if words and all(NAME.fullmatch(word) for word in words) and WITH not in words:
        return True
    problem = f"{name!r} cannot be a name: it should be words of letters and digits, without `with`"
    reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another name"))
    return False


def _steps(value: Value, what: str, reading: ConfigReading, depth: int = 0) -> tuple[WrittenStep, ...]:
    """Read steps: a list, or one that stands alone."""
    if depth > DEEPEST:
        remedy = "put some of them into a macro of their own"
        reading.found.append(finding("JK108", value.spot, problem="steps are nested too deep here", remedy=remedy))
        return ()
    items = value.items() if value.is_list else (value,)
    return tuple(step for item in items if (step := _step(item, what, reading, depth)))


def _step(item: Value, what: str, reading: ConfigReading, depth: int) -> WrittenStep | None:
    if item.text is not None:
        reading.steps[item.spot] = item
        return WrittenStep(DO, item.text, item.spot)
    keys = [key.text for key, _ in item.pairs()] if item.is_map else []
    kind = next((kind for kind in STEP_KEYS if kind in keys), None)
    if kind is None:
        remedy = fields.cut_in_two(item) or _meant(keys) or f"write {FORMS}"
        reading.found.append(
            finding("JK105", item.spot, what=f"a step of {what}", wanted="a step", found=item.kind, remedy=remedy)
        )
        return None
    read = fields.fields(item, f"a {kind} step of {what}", STEP_KEYS[kind], reading.found)
    head = next(value for key, value in item.pairs() if key.text == kind)
    then = _then(kind, read, head.spot, what, reading, depth)
    otherwise = _steps(read["else"], what, reading, depth + 1) if "else" in read else None
    reading.steps[head.spot] = head
    return WrittenStep(kind, read[kind], head.spot, then, otherwise, read.get("sure", False)) if kind in read else None


def _then(
    kind: str, read: Mapping[str, Any], spot: Spot, what: str, reading: ConfigReading, depth: int
) -> tuple[WrittenStep, ...]:
    """Read the steps that one leads to; report it where it has to lead to some, and has none."""
    inner = _THEN.get(kind, "")
    if inner and inner not in read:
        remedy = f"add {inner}: [go berths]"
        reading.found.append(finding("JK106", spot, what=f"this step of {what}", key=inner, remedy=remedy))
    return _steps(read[inner], what, reading, depth + 1) if inner in read else ()


def _meant(keys: list[str | None]) -> str:
    """Return a remedy for a step whose sentence stands in the place of its key: `when berths is running: [...]`."""
    for kind, then in _THEN.items():
        for key in keys:
            word, _, rest = (key or "").partition(" ")
            if word == kind:
                return f"write {{{kind}: {rest}, {then}: [...]}}"
    return ""


def look_into(reading: ConfigReading) -> None:
    """Read the sentences of all macros, once the whole config is known: with the values they are run with.

    What macros do is then known as deeds of the reading; what is wrong with them is found.
    """
    macros = reading.config.macros
    if not macros:
        return
    seen: set[tuple[str, tuple[tuple[str, str], ...]]] = set()
    calls = [(deed.action, deed.value) for deed in reading.deeds]
    own = [(name, ()) for name, macro in macros.items() if all(value is not None for _, value in macro.parameters)]
    for name, arguments in own:
        seen.add((name, arguments))
        calls += _instance(macros[name], arguments, reading)
    while calls:
        action, value = calls.pop()
        for one in action.every():
            ref = one.named("MACRO")
            if ref is None or one.verb != "run" or ref.name not in macros or (ref.name, ref.arguments) in seen:
                continue
            seen.add((ref.name, ref.arguments))
            try:
                values_of(macros[ref.name], ref.arguments)
            except SentenceError as fault:
                spot = value.part(ref.start, ref.end)
                reading.found.append(finding("JK313", spot, problem=fault.message, remedy=fault.remedy))
                continue
            calls += _instance(macros[ref.name], ref.arguments, reading)


def _instance(
    macro: Macro, arguments: tuple[tuple[str, str], ...], reading: ConfigReading
) -> list[tuple[Action, Value | FilledSentence]]:
    """Read a macro's steps with some arguments; return the actions."""
    values = values_of(macro, arguments)
    told = ", ".join(f"{name}={value}" for name, value in values.items())
    actions: list[tuple[Action, Value | FilledSentence]] = []

    def value_at(written: WrittenStep) -> Value | FilledSentence:
        value = reading.steps[written.spot]
        return FilledSentence(value.spot) if "<" in written.text and values else value

    def report(written: WrittenStep, fault: SentenceError) -> None:
        value = value_at(written)
        problem = f"{fault.message} (with {told})" if isinstance(value, FilledSentence) else fault.message
        code = "JK301" if written.kind == DO else "JK314"
        reading.found.append(finding(code, value.part(fault.start, fault.end), problem=problem, remedy=fault.remedy))

    reading.instances[macro.name, arguments] = read_steps(macro.steps, values, parse_action, report)
    for written in macro.every():
        value = value_at(written)
        try:
            text = fill_parameters(written.text, values)
            if written.kind == DO:
                action = parse_action(text)
                reading.deeds.append(WrittenAction(action, value, sure=written.sure, off=False, family=False))
                actions.append((action, value))
            elif written.kind == WHEN:
                names = (
                    name for test in tests_of(parse_condition(text)) for ref in test.refs for name in names_in(ref)
                )
                reading.mentions += [Mention(name.kind, name.name, value.part(name.start, name.end)) for name in names]
        except SentenceError:
            continue  # it is told of
    return actions
