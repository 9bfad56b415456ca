"""JSON-RPC 2.0 (the specification of 2013): from a line of bytes to answers. No sockets here."""

import json
from collections.abc import Callable, Mapping
from typing import Any, Final

from jaklet.core.values.errors import JakletError
from jaklet.listener.control_client import ELSEWHERE, NO_METHOD, ElsewhereError, line_of
from jaklet.listener.guard import reraise

PARSE_ERROR, INVALID_REQUEST, BAD_PARAMS = -32700, -32600, -32602  # section 5.1
INTERNAL: Final = -32603  # section 5.1, too
REFUSED: Final = -32000  # of those left to servers: what was asked for cannot be, and the message says why
MOST_IN_BATCH: Final = 50
Answer = Callable[[Any], None]
# What a method is given: the parameters by name, and to whom the result goes, at once or later; raises `JakletError`.
Method = Callable[[Mapping[str, Any], Answer], None]
Send = Callable[[bytes], None]
Broken = Callable[[str, Exception], str]  # is told of a fault in a method, and returns it in a few words


class _Batch:
    """The answers to several requests, which go out together when the last one is there (section 6)."""

    def __init__(self, number: int, send: Send) -> None:
        self._missing = number
        self._answers: list[dict[str, Any]] = []
        self._send = send

    def take(self, answer: dict[str, Any] | None) -> None:
        """Take the answer to one request, None for a notification."""
        self._missing -= 1
        if answer is not None:
            self._answers.append(answer)
        if not self._missing and self._answers:
            self._send(line_of(self._answers))


def _result(number: Any, result: Any) -> dict[str, Any]:
    return {"jsonrpc": "2.0", "id": number, "result": result}


def fault_data(fault: JakletError) -> dict[str, Any]:
    """Return a fault as data: its message, and a remedy and an exit status where there is more to say than that."""
    data: dict[str, Any] = {"remedy": fault.remedy} if fault.remedy else {}
    data |= {"status": fault.exit_status} if fault.exit_status != JakletError.exit_status else {}
    return {"message": fault.message, **({"data": data} if data else {})}


def _error(number: Any, code: int, fault: JakletError) -> dict[str, Any]:
    return {"jsonrpc": "2.0", "id": number, "error": {"code": code, **fault_data(fault)}}


def notification(method: str, params: Mapping[str, Any]) -> bytes:
    """Return a message that wants no answer (section 4.1)."""
    return line_of({"jsonrpc": "2.0", "method": method, "params": params})


def handle_line(line: bytes, methods: Mapping[str, Method], send: Send, broken: Broken = reraise) -> bool:
    """Do what a line asks for; `send` is given the answer, at once or later. False: none is wanted, and none comes."""
    try:
        asked = json.loads(line)
    except (ValueError, RecursionError):
        send(line_of(_error(None, PARSE_ERROR, JakletError("this is not JSON"))))
        return True
    if not isinstance(asked, list):
        _one(asked, methods, lambda answer: send(line_of(answer)) if answer is not None else None, broken)
    elif not asked or len(asked) > MOST_IN_BATCH:
        problem = JakletError(f"a batch has 1 to {MOST_IN_BATCH} requests")
        send(line_of(_error(None, INVALID_REQUEST, problem)))
    else:
        batch = _Batch(len(asked), send)
        for one in asked:
            _one(one, methods, batch.take, broken)
        return any(not _is_notification(one) for one in asked)
    return not _is_notification(asked)


def wants_answer(line: bytes) -> bool:
    """Return whether all that a line asks for wants an answer."""
    try:
        asked = json.loads(line)
    except (ValueError, RecursionError):
        return True
    return not any(_is_notification(one) for one in (asked if isinstance(asked, list) else [asked]))


def _is_request(asked: Any) -> bool:
    """Return whether this has the form of a request (section 4)."""
    fits = isinstance(asked, dict) and asked.get("jsonrpc") == "2.0" and isinstance(asked.get("method"), str)
    number = asked.get("id") if fits else None
    return fits and isinstance(number, str | int | float | None) and not isinstance(number, bool)


def _is_notification(asked: Any) -> bool:
    return _is_request(asked) and "id" not in asked


def _one(
    asked: Any, methods: Mapping[str, Method], take: Callable[[dict[str, Any] | None], None], broken: Broken
) -> None:
    """Do one request; `take` gets its answer, None for a notification."""
    if not _is_request(asked):
        take(_error(None, INVALID_REQUEST, JakletError("this is not a JSON-RPC 2.0 request")))
        return
    number, wanted = asked.get("id"), "id" in asked

    def refuse(code: int, fault: JakletError) -> None:
        take(_error(number, code, fault) if wanted else None)

    method = methods.get(asked["method"])
    if method is None:
        refuse(NO_METHOD, JakletError(f"there is no method {asked['method']!r}"))
        return
    params = asked.get("params", {})
    if not isinstance(params, dict):
        refuse(BAD_PARAMS, JakletError("parameters are given by name: {...}"))
        return
    if not _is_text(params):
        refuse(BAD_PARAMS, JakletError("a text in the parameters has a NUL, or half of a character in UTF-16"))
        return
    answered: list[bool] = []

    def answer(result: Any) -> None:
        answered.append(True)
        take(_result(number, result) if wanted else None)

    try:
        method(params, answer)
    except ParamsError as fault:
        refuse(BAD_PARAMS, fault)
    except ElsewhereError as fault:
        refuse(ELSEWHERE, fault)
    except JakletError as fault:
        refuse(REFUSED, fault)
    except Exception as fault:  # whatever came by the socket, the listener goes on
        told = broken(f"request {asked['method']}", fault)
        if not answered:
            refuse(INTERNAL, JakletError(told, "the listener's log has more of it"))


def _is_text(data: Any) -> bool:
    """Return whether all texts in data can stand in files, in X and in the log: JSON can say more than that."""
    if isinstance(data, str):
        return "\0" not in data and not any("\ud800" <= character <= "\udfff" for character in data)
    if isinstance(data, dict):
        return all(_is_text(key) and _is_text(value) for key, value in data.items())
    return all(map(_is_text, data)) if isinstance(data, list) else True


class ParamsError(JakletError):
    """A parameter is missing, or is not what it should be."""


def text_param(params: Mapping[str, Any], name: str, example: str) -> str:
    """Return a parameter that is text; raises `ParamsError`."""
    value = params.get(name)
    if not isinstance(value, str):
        raise ParamsError(f"{name} should be text", f'write it like: {{"{name}": "{example}"}}')
    return value
