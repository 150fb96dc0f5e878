"""Messages on a stream of bytes: a header with Content-Length, an empty line, and so many bytes of JSON.

The framing is that of the base protocol of the Language Server Protocol 3.17.
"""

from __future__ import annotations

import re
from typing import BinaryIO

MOST_BYTES = 16 << 20
"""Of one message."""
LONGEST_LINE = 4_096
HEADER = re.compile(rb"(?i)content-(length|type)\s*:\s*(.*)")
WEB = re.compile(rb"[A-Z]+ \S+ HTTP/")
"""How a request of a web page begins: a page in a browser must never drive a level."""


class Broken(Exception):
    """Something that is no message; what follows can still be read. The text says what is wrong."""


class Over(Exception):
    """The stream has come to its end, or to something that ends the connection; the text says what, if anything."""


def framed(body: bytes) -> bytes:
    """Return a message with its header."""
    return b"Content-Length: %d\r\n\r\n%b" % (len(body), body)


def read_frame(stream: BinaryIO) -> bytes:
    """Return the next message's bytes. Raises Broken for what is none, Over at the end."""
    length: int | None = None
    junk = b""
    while True:
        line = stream.readline(LONGEST_LINE)
        if not line:
            raise Over("")
        if WEB.match(line):
            raise Over("this is no web server")
        plain = line.strip()
        if not plain:
            if junk:
                raise Broken(f"a header is Content-Length or Content-Type, not “{_shown(junk)}”")
            if length is None:
                # an empty line between messages
                continue
            break
        found = HEADER.fullmatch(plain)
        if found is None:
            junk = junk or plain
            if not line.endswith(b"\n"):
                raise Over("a header has no end")
            continue
        if found.group(1).lower() == b"length":
            # what came before it was no header of this message
            junk = b"" if junk and length is None else junk
            if not re.fullmatch(rb"\d{1,12}", found.group(2)):
                raise Broken(f"Content-Length is a number of bytes, not “{_shown(found.group(2))}”")
            length = int(found.group(2))
    if length > MOST_BYTES:
        raise Over(f"a message may have {MOST_BYTES:,} bytes at most")
    body = b""
    while len(body) < length:
        more = stream.read(length - len(body))
        if not more:
            raise Over("the connection ended within a message")
        body += more
    return body


def _shown(raw: bytes) -> str:
    return raw[:60].decode(errors="replace")
