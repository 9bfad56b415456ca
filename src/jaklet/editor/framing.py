"""Messages of an editor, as they come: what is no message is passed over, and the next one is heard all the same.

The base protocol of the Language Server Protocol (3.17): a header with the length of what follows, then JSON-RPC. A
length that is none, or too large, says nothing of where the next message begins: its header is looked for.
"""

import json
import re
from collections.abc import Callable
from typing import Any, BinaryIO, Final

LARGEST: Final = 64_000_000  # bytes of one message; the largest file that is read has four million
_LENGTH: Final = re.compile(rb"^Content-Length:\s*(\d{1,12})\s*$", re.IGNORECASE)
_BEGINS: Final = re.compile(rb"Content-Length:", re.IGNORECASE)
_HALVES: Final = re.compile(rb"\\u[dD][89a-fA-F]")  # halves of a character in UTF-16, which may stand alone
INVALID_PARAMS: Final = -32602  # JSON-RPC 2.0, section 5.1


class Messages:
    """The messages of a stream, for who reads them line by line and byte by byte.

    `fits` raises where a message's parameters do not have their form; `answer` sends such a message an error.
    """

    def __init__(self, stream: BinaryIO, fits: Callable[[Any], object], answer: Callable[[bytes], None]) -> None:
        self._stream, self._fits, self._answer = stream, fits, answer
        self._left = b""  # what was read, and belongs to the next message
        self._ready = b""  # of a message that is whole

    def readline(self) -> bytes:
        """Return the next line of a whole message; nothing at the end."""
        if not self._ready:
            self._ready = self._next()
        line, end, self._ready = self._ready.partition(b"\n")
        return line + end

    def read(self, count: int) -> bytes:
        """Return so many bytes of it."""
        body, self._ready = self._ready[:count], self._ready[count:]
        return body

    def _next(self) -> bytes:
        """Return the next message that can be dealt with, with its header; nothing at the end of the stream."""
        while (length := self._length()) is not None:
            body = self._take(length)
            if len(body) < length:
                return b""
            try:
                message = json.loads(body)
            except (ValueError, RecursionError):
                begins = _BEGINS.search(body)  # the length was too large, and the next message is in it
                self._left = body[begins.start() :] + self._left if begins else self._left
                continue
            if _HALVES.search(body):
                body = json.dumps(_whole(message)).encode()
            if self._is_sound(message, body):
                return b"Content-Length: %d\r\n\r\n%b" % (len(body), body)
        return b""

    def _length(self) -> int | None:
        """Return the length in the next header; None at the end of the stream."""
        length: int | None = None
        while line := self._line():
            begins = _BEGINS.search(line)
            found = _LENGTH.match(line[begins.start() :].rstrip()) if begins else None
            if found:
                length = int(found[1])
            elif begins:
                length = None  # none that is a number
            elif not line.strip() and length is not None and 0 < length <= LARGEST:
                return length
            elif not line.strip():
                length = None
        return None

    def _line(self) -> bytes:
        end = self._left.find(b"\n") + 1
        if end:
            line, self._left = self._left[:end], self._left[end:]
            return line
        line, self._left = self._left + self._stream.readline(), b""
        return line

    def _take(self, count: int) -> bytes:
        body, self._left = self._left[:count], self._left[count:]
        return body + self._stream.read(count - len(body)) if len(body) < count else body

    def _is_sound(self, message: Any, body: bytes) -> bool:
        """Return whether a message has the form of its kind; one that wants an answer is told where it has not."""
        if not isinstance(message, dict) or "method" not in message:
            return True  # an answer
        try:
            json.loads(body, object_hook=self._fits)
        except Exception:
            if isinstance(message.get("id"), int | str):
                error = {"code": INVALID_PARAMS, "message": "the parameters do not have the form of this request"}
                told = json.dumps({"jsonrpc": "2.0", "id": message["id"], "error": error}).encode()
                self._answer(b"Content-Length: %d\r\n\r\n%b" % (len(told), told))
            return False
        return True


def _whole(data: Any) -> Any:
    """Return data in which halves of characters are replaced."""
    if isinstance(data, str):
        return data.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    if isinstance(data, list):
        return [_whole(one) for one in data]
    if isinstance(data, dict):
        return {_whole(key): _whole(value) for key, value in data.items()}
    return data
