"""In which encoding a text is written that is not UTF-8, told from how its words come out.

Windows-1252 is taken unless another encoding is clearly better. Better is what leaves words that could be words: a
letter with an accent among plain letters, of the same case and script; signs such as ° or £ beside a number or a blank;
and none of the characters that only show that a byte was meant otherwise.
"""

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from culvix.tables.model.options.reading_questions import Choice, ReadingQuestion

__all__ = ["NAMES", "InferredEncoding", "encoding_name", "infer_encoding"]

NAMES = {
    "cp1252": "Windows-1252",
    "cp1250": "Windows-1250",
    "cp1251": "Windows-1251",
    "cp1253": "Windows-1253",
    "cp1254": "Windows-1254",
    "iso8859_2": "ISO-8859-2",
    "iso8859_5": "ISO-8859-5",
    "iso8859_7": "ISO-8859-7",
    "iso8859_15": "ISO-8859-15",
    "koi8_r": "KOI8-R",
    "mac_roman": "Mac Roman",
    "cp850": "CP850",
    "cp437": "CP437",
    "cp866": "CP866",
    "shift_jis": "Shift JIS",
    "euc_jp": "EUC-JP",
    "gb18030": "GB18030",
    "big5": "Big5",
    "euc_kr": "EUC-KR",
}
"""Python's name of an encoding, and the one it goes by."""

_SINGLE = tuple(NAMES)[:14]
_DOUBLE = tuple(NAMES)[14:]
_USUAL = "cp1252"
_MARGIN = 0.15
"""So much better another encoding has to be than the usual one."""

_LIKELY, _HARDLY = 0.5, 0.2
_CONTROLS = 50
"""A text has fewer control characters than one in so many bytes."""

_SHOWN = 5
_MOST_LINES = 4000
_OPEN = frozenset("€£¥$¢§©®™°±²³¹µ¼½¾ªº«»“”‘’„‚–—…•·×÷¡¿\u00a0†‡‰")
_QUOTES = frozenset("«»“”‘’„‚–—…\u00a0")
_RARE = frozenset("ÐðÞþÝýŠšŽžŸÿĄĽľîÎ")
"""Letters that stand in fewer words than others; where another encoding gives a usual one it is better."""

_RARELY = 0.6
_IN_WORDS = frozenset("’'-–·\u00ad")


@dataclass(frozen=True)
class InferredEncoding:
    """Python's name of the encoding, and the question to ask where another would give other words."""

    name: str
    questions: tuple[ReadingQuestion, ...]


def encoding_name(name: str) -> str:
    """The name an encoding goes by."""
    return NAMES.get(name, name)


def infer_encoding(data: bytes) -> InferredEncoding | None:
    """The encoding that fits ``data``, which is not UTF-8, best; None where none does."""
    lines = [line for line in data.split(b"\n") if not line.isascii()][:_MOST_LINES]
    sample = b"\n".join(lines)
    if len(re.findall(rb"[\x01-\x08\x0b\x0e-\x1f]", sample)) * _CONTROLS > len(sample):
        return None
    texts = {name: text for name in (*_SINGLE, *_DOUBLE) if (text := _decoded(sample, name)) is not None}
    scores = {name: _plausibility(texts[name]) for name in _SINGLE if name in texts}
    scores |= {
        name: score for name in _DOUBLE if name in texts and (score := _east_asian(name, texts[name], sample)) > 0
    }
    guessed = _guessed(sample) if max(scores.values(), default=0.0) < _LIKELY else None
    if guessed is not None and (text := _decoded(sample, guessed)) is not None:
        texts[guessed] = text
        scores[guessed] = max(scores.get(guessed, 0.0), _LIKELY)
    if max(scores.values(), default=0.0) <= _HARDLY:
        return None
    ranked = sorted(scores, key=lambda name: (-scores[name] - _MARGIN * (name == _USUAL), list(texts).index(name)))
    best = ranked[0]
    return InferredEncoding(best, _asked(best, ranked[1:], texts))


def _guessed(sample: bytes) -> str | None:
    """The encoding by the statistics of letters, for texts in which no word is known."""
    # Few files ask for it, and every start of the program would wait for its tables.
    from charset_normalizer import from_bytes

    best = from_bytes(sample).best()
    return None if best is None else best.encoding


def _decoded(data: bytes, name: str) -> str | None:
    try:
        return data.decode(name)
    except (UnicodeDecodeError, LookupError):
        return None


def _plausibility(text: str) -> float:
    """The share of the characters beyond ASCII that stand where such a character can stand."""
    good, every = 0.0, 0
    for found in re.finditer(r"[^\x00-\x7f]", text):
        at = found.start()
        before, after = text[at - 1 : at], text[at + 1 : at + 2]
        every += 1
        if _fits(found[0], before, after):
            good += _RARELY if found[0] in _RARE else 1.0
    return good / every if every else 0.0


def _fits(mark: str, before: str, after: str) -> bool:
    category = unicodedata.category(mark)
    if category in ("Cc", "Cn", "Co", "Cs"):
        return False
    if mark == "µ" or not mark.isalpha():
        signs = [side for side in (before, after) if side and not side.isascii() and not side.isalpha()]
        if mark not in _QUOTES and any(side not in _QUOTES for side in signs):
            return False
        if (mark in "£€¥" and after.isalpha()) or (mark in "‚„" and (before.isalpha() or not before.isascii())):
            return False
        inside = before.isalpha() and after.isalpha()
        return mark in _OPEN and (not inside or mark in _IN_WORDS) and not (mark in "¡¿" and before.isalpha())
    if mark in "ªº":
        return not after.isalpha()
    script = _script(mark)
    if any(side.isalpha() and _script(side) != script for side in (before, after)):
        return False
    if script != "LATIN":
        # Words of another script are written in it throughout, with capitals only at their beginning.
        return bool(before.isalpha() or after.isalpha()) and not (mark.isupper() and before.islower())
    if mark.isupper() and before.islower():
        return False
    return not (mark.isupper() and after.islower() and before.isalpha()) and not _unusual_run(before, mark, after)


def _unusual_run(before: str, mark: str, after: str) -> bool:
    """Whether three letters with marks stand side by side, as in no Latin script."""
    return all(side.isalpha() and not side.isascii() for side in (before, after))


def _script(letter: str) -> str:
    return unicodedata.name(letter, "?").split(" ")[0]


def _east_asian(name: str, text: str, data: bytes) -> float:
    """The share of characters beyond ASCII that are East Asian letters; 0 where single bytes would do as well."""
    beyond = [mark for mark in text if not mark.isascii()]
    high = sum(byte > 0x7F for byte in data)
    # Two bytes a character: a single byte beyond ASCII among plain letters is no half of one.
    if not beyond or len(beyond) * 1.5 > high + 1:
        return 0.0
    pairs = sum(not a.isascii() and not b.isascii() for a, b in pairwise(text))
    mixed = len(re.findall(r"[a-z][^\x00-\x7f]|[^\x00-\x7f][a-z]", text))
    if pairs < len(beyond) / 3 or mixed > len(beyond) / 10:
        return 0.0
    hangul, kana, han = (
        sum(low <= mark <= high for mark in beyond) / len(beyond)
        for low, high in (("\uac00", "\ud7a3"), ("\u3041", "\u30ff"), ("\u4e00", "\u9fff"))
    )
    # The same bytes give letters in several encodings: Korean is all Hangul, Japanese has kana among the signs.
    weight = {"euc_kr": hangul, "euc_jp": kana + han * (kana > 0), "shift_jis": kana + han * (0.9 if not kana else 1)}
    return weight.get(name, 0.95 * han)


def _asked(best: str, others: Sequence[str], texts: dict[str, str]) -> tuple[ReadingQuestion, ...]:
    """The two best readings side by side, by the words that differ between them."""
    words = _words(texts[best])
    for other in others:
        differing = [(a, b) for a, b in zip(words, _words(texts[other]), strict=False) if a != b]
        if not differing:
            continue
        pairs = list(dict.fromkeys(differing))[:_SHOWN]
        choices = tuple(
            Choice(
                encoding_name(name),
                ", ".join(pair[position] for pair in pairs),
                {"encoding": name},
                in_force=not position,
            )
            for position, name in enumerate((best, other))
        )
        sentence = f"The text is not UTF-8. It was read as {encoding_name(best)}; do these words look right?"
        return (ReadingQuestion("encoding", sentence, choices),)
    return ()


def _words(text: str) -> list[str]:
    """The words of ``text`` with anything beyond ASCII in them, in order."""
    return [word.strip("\"',;|") for word in re.split(r"[\s,;|\t]+", text) if not word.isascii()]
