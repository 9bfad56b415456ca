"""Write `src/jaklet/cli/commands.json`, what a shell is told of commands and options, from the commands themselves.

Run: python tools/make_commands.py
"""

import json
from pathlib import Path
from typing import Any

import typer

from jaklet.cli.app import COMMANDS, HIDDEN, app_with
from jaklet.core.language.verbs import VERBS

OUT = Path(__file__).parent.parent / "src" / "jaklet" / "cli" / "commands.json"


def text() -> str:
    """Return the whole table, a line for each command."""
    told = node(typer.main.get_command(app_with(name for name in COMMANDS if name not in HIDDEN)))
    told["verbs"] = {name: first_sentence(verb.help) for name, verb in VERBS.items()}
    inner = ",\n".join(f"{json.dumps(name)}: {json.dumps(one)}" for name, one in told.pop("commands").items())
    return json.dumps(told)[:-1] + ', "commands": {\n' + inner + "\n}}\n"


def node(command: Any) -> dict[str, Any]:
    """Return what is told of a command: its first sentence, options, arguments that are words, and what is below it.

    An option takes nothing (false), any text (true), or one of some words; those that can be given again are `again`.
    """
    told: dict[str, Any] = {"told": first_sentence(command.help)}
    options, words, again = {}, [], []
    for one in command.params:
        takes = list(getattr(one.type, "choices", ())) or not getattr(one, "is_flag", False)
        if one.param_type_name == "argument":
            words += takes if isinstance(takes, list) else []
        elif not one.hidden:
            name = one.opts[0]
            options[name] = [first_sentence(one.help), takes]
            again += [name] if one.multiple else []
    told |= {"options": options} | ({"words": words} if words else {}) | ({"again": again} if again else {})
    below = getattr(command, "commands", {})
    if below:
        told["commands"] = {name: node(one) for name, one in below.items()}
        told |= {"usual": command.usual} if getattr(command, "usual", "") else {}
    return told


def first_sentence(help_: str | None) -> str:
    """Return the beginning of a help text."""
    words = " ".join((help_ or "").replace("\b", "").split())
    return words.partition(". ")[0].rstrip(".:")


if __name__ == "__main__":
    OUT.write_text(text())
