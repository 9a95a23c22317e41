"""Addresses of PostgreSQL servers, taken apart as the server's own library does, or refused without being repeated.

What is shown, stored or logged is built from the parts that are known to be no secret. A password with an odd character
that was not written as %XX would make an address mean something else, with a part of the password as its host, port or
database: such an address is refused by a sentence that repeats nothing of it.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from urllib.parse import quote, unquote

from culvix.errors import ReadError

__all__ = ["SCHEMES", "Address", "looks_like_address", "parse_address"]

SCHEMES = ("postgresql://", "postgres://")
"""With which an address begins."""

_SHOWN = ("host", "port", "sslmode", "connect_timeout", "target_session_attrs", "service", "sslrootcert")
_HIDDEN = (
    *("user", "dbname", "password", "passfile", "sslpassword", "sslkey", "sslcert", "sslcrl", "options"),
    *("application_name", "client_encoding", "keepalives", "keepalives_idle", "keepalives_interval", "gssencmode"),
    *(
        "keepalives_count",
        "tcp_user_timeout",
        "channel_binding",
        "krbsrvname",
        "hostaddr",
        "requirepeer",
        "fallback_application_name",
    ),
    *("ssl_min_protocol_version", "ssl_max_protocol_version", "sslcompression", "sslsni", "sslcrldir", "gsslib"),
)
_PERCENT = re.compile(r"%(?![0-9A-Fa-f]{2})|%00")
_HOST = re.compile(r"(?:[A-Za-z0-9_](?:[A-Za-z0-9_.-]{0,252}))?|/[^@:?#]{0,200}")
_HOST_IN_BRACKETS = re.compile(r"\[[0-9A-Fa-f:.]{2,45}(?:%25[A-Za-z0-9_.-]{1,15})?\]")
_PORT = re.compile(r"[0-9]{1,5}")
_NAME = re.compile(r"[^@:?#&=/\x00-\x1f]{0,63}")
_PLAIN = re.compile(r"[^@:#?&=\x00-\x1f]{0,500}")
_ADDRESS = re.compile(
    r"postgres(?:ql)?:|^[a-z][a-z0-9+.-]*:/?/|://|\bpass(?:word|wd|file)?\s*=|\bsslpassword\s*=|\bhost(?:addr)?\s*=.*\buser\s*=|"
    r"^[^/\s]*:.*@",
    re.IGNORECASE | re.DOTALL,
)
_REFUSAL = (
    "This address of a server cannot be taken apart, and is not repeated here as it may hold a password. It is written "
    "like postgresql://user@host:5432/database, with %XX in place of odd characters (%40 is @, %2F is /, %23 is #, "
    "%25 is %); the password is better left to PGPASSWORD or a password file."
)


def looks_like_address(text: str) -> bool:
    """Whether ``text``, where a file is expected, may be an address or what a server is told of a connection."""
    return _ADDRESS.search(text) is not None


@dataclass(frozen=True)
class Address:
    """A server's address in its parts, as they are meant; ``hosts`` and their ports as they are written."""

    hosts: tuple[tuple[str, str], ...]
    user: str
    database: str
    options: Mapping[str, str] = field(repr=False)
    password: str | None = field(default=None, repr=False)

    @property
    def shown(self) -> str:
        """The address as it may be shown and kept."""
        return self._written({name: self.options[name] for name in _SHOWN if name in self.options}, None)

    def with_secrets(self, **more: str) -> str:
        """The address as a server's library is given it, with ``more`` options where they are not said."""
        return self._written({**more, **self.options}, self.password)

    @property
    def secrets(self) -> tuple[str, ...]:
        """What must not be seen of it, however it is written."""
        said = (self.password, self.options.get("sslpassword"))
        return tuple(form for each in said if each for form in (each, quote(each), quote(each, safe="")))

    def _written(self, options: Mapping[str, str], password: str | None) -> str:
        user = quote(self.user, safe="") + ("" if password is None else f":{quote(password, safe='')}")
        at = "@" if user else ""
        hosts = ",".join(
            f"{host if host.startswith('[') else quote(host, safe='')}{f':{port}' if port else ''}"
            for host, port in self.hosts
        )
        asked = "&".join(f"{name}={quote(value, safe='/')}" for name, value in options.items())
        return f"postgresql://{user}{at}{hosts}/{quote(self.database, safe='')}{'?' if asked else ''}{asked}"


def parse_address(text: str) -> Address:
    """The parts of an address. Raises ReadError, which repeats nothing of it, where it is none as it should be."""
    scheme = next((each for each in SCHEMES if text.startswith(each)), None)
    if scheme is None or _PERCENT.search(text):
        raise ReadError(_REFUSAL)
    rest = text[len(scheme) :]
    # The library looks for an @ up to the first slash, and takes the first that there is.
    before, at, after = rest.partition("@")
    password: str | None = None
    user = ""
    if at and "/" not in before:
        user, colon, said = before.partition(":")
        password, rest = (unquote(said) if colon else None), after
    authority, slash, path = rest.partition("/")
    asked = ""
    if "?" in authority:
        authority, _, asked = authority.partition("?")
        asked, path = asked + slash + path, ""
    else:
        path, _, asked = path.partition("?")
    hosts = tuple(_host(each) for each in authority.split(","))
    options = _options(asked)
    # What is said twice holds as it is said last.
    user = options.pop("user", _part(user, _PLAIN))
    database = options.pop("dbname", _part(path, _NAME))
    password = options.pop("password", password)
    return Address(hosts, user, database, MappingProxyType(options), password)


def _part(text: str, allowed: "re.Pattern[str]") -> str:
    """A part of an address in which no odd character stands as it is."""
    if not allowed.fullmatch(text):
        raise ReadError(_REFUSAL)
    return unquote(text)


def _host(text: str) -> tuple[str, str]:
    brackets = _HOST_IN_BRACKETS.match(text)
    if brackets:
        host, rest = brackets[0], text[brackets.end() :]
        colon, port = rest[:1], rest[1:]
    else:
        host, colon, port = text.partition(":")
        host = unquote(host)
    is_host = bool(brackets) or _HOST.fullmatch(host)
    is_port = colon in ("", ":") and (not port if not colon else not port or _PORT.fullmatch(port))
    if not is_host or not is_port or (port and not 0 < int(port) < 1 << 16):
        raise ReadError(_REFUSAL)
    return host, port


def _options(asked: str) -> dict[str, str]:
    found = {}
    for each in asked.split("&") if asked else ():
        name, equals, value = each.partition("=")
        if not equals or name not in (*_SHOWN, *_HIDDEN) or ("@" in value and name in _SHOWN):
            raise ReadError(_REFUSAL)
        found[name] = unquote(value)
    return found
