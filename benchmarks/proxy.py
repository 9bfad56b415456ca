"""A proxy between one X client and the server that notes when a key event went in and when the next bytes came out.

It sees what the client really wrote to its socket, whatever language or library it is made of.
"""

import os
import select
import socket
import sys
import threading
import time
from pathlib import Path

REPLY, KEY_PRESS, GENERIC_EVENT = 1, 2, 35


def _tells_of_a_key(data: bytes) -> bool:
    """Return whether a key press is among what the server says: events of 32 bytes, and replies with their lengths."""
    at = 0
    while at + 32 <= len(data):
        code = data[at] & 0x7F
        if code == KEY_PRESS:
            return True
        longer = int.from_bytes(data[at + 4 : at + 8], sys.byteorder) * 4 if code in (REPLY, GENERIC_EVENT) else 0
        at += 32 + longer
    return False


class Proxy:
    """Listens as display `number`, and passes everything on to the server at `target`."""

    def __init__(self, number: int, target: int) -> None:
        self.display = f":{number}"
        self.times: list[float] = []  # seconds from key event in to first bytes out
        self._path = Path(f"/tmp/.X11-unix/X{number}")
        self._target = f"/tmp/.X11-unix/X{target}"
        self._server = socket.socket(socket.AF_UNIX)
        self._server.bind(str(self._path))
        self._server.listen()
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                client, _ = self._server.accept()
            except OSError:
                return
            threading.Thread(target=self._pass_on, args=(client,), daemon=True).start()

    def _pass_on(self, client: socket.socket) -> None:
        server = socket.socket(socket.AF_UNIX)
        server.connect(self._target)
        pressed = 0.0
        while True:
            for ready in select.select([client, server], [], [])[0]:
                data = ready.recv(1 << 16)
                if ready is client and pressed:
                    self.times.append(time.perf_counter() - pressed)
                    pressed = 0.0
                if not data:
                    client.close()
                    server.close()
                    return
                (server if ready is client else client).sendall(data)
                if ready is server and _tells_of_a_key(data):
                    pressed = time.perf_counter()

    def close(self) -> None:
        """Stop taking clients."""
        self._server.close()
        os.unlink(self._path)
