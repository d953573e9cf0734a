"""The pages of the manual, and searching them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files


@dataclass(frozen=True)
class Page:
    """A page.

    Parameters
    ----------
    name : str
    title : str
    text : str
        Markdown.
    """

    name: str
    title: str
    text: str


@cache
def pages() -> tuple[Page, ...]:
    """All pages, in order."""
    pages = []
    for path in sorted(files("dromic.manual").iterdir(), key=lambda one: one.name):
        if path.name.endswith(".md"):
            text = path.read_text(encoding="utf-8")
            pages.append(Page(path.name, text.partition("\n")[0].removeprefix("# "), text))
    return tuple(pages)


def matching(words: str) -> tuple[Page, ...]:
    """Pages that hold every one of some words, those with more of them in their title first.

    Examples
    --------
    >>> [page.title for page in matching("palm mute")]
    ['A first riff']
    >>> len(matching("")) == len(pages())
    True
    """
    wanted = [word.casefold() for word in words.split()]
    found = [page for page in pages() if all(word in plain(page).casefold() for word in wanted)]
    return tuple(sorted(found, key=lambda page: -sum(word in page.title.casefold() for word in wanted)))


def plain(page: Page) -> str:
    """The text of a page without its marks and pictures."""
    return re.sub(r"[*`#]", "", re.sub(r"!\[[^\]]*\]\([^)]*\)", "", page.text))


def picture(path: str, *, dark: bool) -> bytes:
    """A picture of a page as a PNG file; of the dark window where there is one.

    Raises
    ------
    FileNotFoundError
    """
    name = path.rpartition("/")[2].removesuffix(".png")
    folder = files("dromic.manual") / "pictures"
    own = folder / f"{name}-dark.png"
    return (own if dark and own.is_file() else folder / f"{name}.png").read_bytes()
