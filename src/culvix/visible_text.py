"""Characters that would act where they are shown, shown as what they are.

A cell may hold characters that ring a bell, end a line, move the cursor of a terminal or turn the direction of what
follows, so that a reader would see something other than what stands there. They are shown by the pictures that Unicode
has of them (U+2400 and on).
"""

__all__ = ["visible"]

_SUBSTITUTE = "\u2426"
_SHOWN = {
    **{code: chr(0x2400 + code) for code in range(0x20) if chr(code) not in "\t\n"},
    0x7F: "\u2421",
    **dict.fromkeys((*range(128, 160), *range(8234, 8239), *range(8294, 8298)), _SUBSTITUTE),
    **dict.fromkeys((65534, 65535), "�"),
}


def visible(text: str) -> str:
    """``text`` with a picture in place of each control character but tabs and ends of lines, and of half characters."""
    if text.isascii() and text.isprintable():
        return text
    shown = text.translate(_SHOWN)
    return (
        shown if shown.isprintable() else "".join("\ufffd" if "\ud800" <= each <= "\udfff" else each for each in shown)
    )
