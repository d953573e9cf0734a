r"""Text tablature, what web pages and forums put round it: tags, names of characters, odd dashes and blanks."""

from __future__ import annotations

import html
import re

_TAGS = re.compile(
    r"</?(?:pre|code|b|i|u|em|strong|p|br|hr|div|span|tt|font|a|blockquote|table|tr|td)\b[^<>\n]{0,200}/?>"
    r"|\[/?(?:tab|code|ch|pre|quote)\]",
    re.IGNORECASE,
)
# [B] by itself is a part of a piece, and no tag.
_PAIRED = re.compile(r"\[(b|i|u)\](.{0,400}?)\[/\1\]", re.IGNORECASE)
_NAMED = re.compile(r"&(?:[a-z]{2,8}|#\d{2,5}|#x[0-9a-f]{2,4});", re.IGNORECASE)
_ODD = str.maketrans({"\u00a0": " ", "\u2010": "-", "\u2011": "-", "\u2212": "-", "\u2500": "-", "\u2502": "|"})


def without_markup(text: str) -> str:
    r"""The text as a reader of the page sees it.

    Examples
    --------
    >>> without_markup("<pre>[ch]Em[/ch]\nG|--<12>--7&gt;5--|<br>\n</pre>")
    'Em\nG|--<12>--7>5--|\n'
    """
    if "<" in text or "[" in text:
        text = _PAIRED.sub(r"\2", _TAGS.sub("", text))
    if "&" in text:
        text = _NAMED.sub(lambda match: html.unescape(match[0]), text)
    return text.translate(_ODD)
