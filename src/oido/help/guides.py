"""The guides as pages: read once from their Markdown, by sections, so that they can be linked and searched."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from django.conf import settings
from django.templatetags.static import static
from django.utils.html import strip_tags
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from markdown_it import MarkdownIt
from markdown_it.token import Token

from oido.common.languages import BRITISH

PICTURES = "../screenshots/"
SNIPPET_LENGTH = 160
MAX_HITS = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideSection:
    """What stands below one heading, up to the next one."""

    anchor: str
    title: str
    level: int
    html: SafeString
    text: str
    """Without marks, to be searched."""
    language: str = BRITISH.code


@dataclass(frozen=True, slots=True, kw_only=True)
class Guide:
    slug: str
    title: str
    sections: tuple[GuideSection, ...]

    @property
    def language(self) -> str:
        """That in which it begins."""
        return self.sections[0].language

    @property
    def rest_from(self) -> str:
        """The anchor from which on a guide goes on in English; empty for one that is in one language."""
        return next((section.anchor for section in self.sections if section.language != self.language), "")

    @property
    def contents(self) -> list[GuideSection]:
        """Sections of the second level, for the list beside the guide."""
        return [section for section in self.sections if section.level == 2]


@dataclass(frozen=True, slots=True, kw_only=True)
class Hit:
    guide: Guide
    section: GuideSection
    snippet: str


@cache
def read_guides(language: str) -> dict[str, Guide]:
    """Return all guides by slug, their beginnings in a language if there are any. They come with the code, so they do
    not change while it runs."""
    folder = Path(settings.GUIDES)
    guides = {file.stem: read_guide(file) for file in sorted(folder.glob("*.md"))}
    begun = {file.stem: read_guide(file, language) for file in (folder / language).glob("*.md")}
    return {slug: _begun_in(begun[slug], guide) if slug in begun else guide for slug, guide in guides.items()}


def _begun_in(beginning: Guide, whole: Guide) -> Guide:
    """Return a guide whose first sections are those of `beginning`, under the anchors that help links to."""
    replaced = whole.sections[: len(beginning.sections)]
    after = next(
        (n for n, section in enumerate(whole.sections) if section.level == 2 and section not in replaced),
        len(whole.sections),
    )
    begun = [replace(new, anchor=old.anchor) for new, old in zip(beginning.sections, replaced, strict=True)]
    return Guide(slug=whole.slug, title=beginning.title, sections=(*begun, *whole.sections[after:]))


def read_guide(file: Path, language: str = BRITISH.code) -> Guide:
    """Return one guide. Its first heading is its title."""
    parser = MarkdownIt("commonmark").enable("table")
    tokens = parser.parse(file.read_text())
    starts = [index for index, token in enumerate(tokens) if token.type == "heading_open"]
    sections = []
    for start, end in zip(starts, [*starts[1:], len(tokens)], strict=True):
        heading = tokens[start + 1]
        title = strip_tags(parser.renderer.render(heading.children or [], parser.options, {}))
        body = tokens[start + 3 : end]
        _mend_addresses(body)
        html = parser.renderer.render(body, parser.options, {})
        sections.append(
            GuideSection(
                anchor=slugify(title),
                title=title,
                level=int(tokens[start].tag[1]),
                html=mark_safe(html),  # noqa: S308 - from a file that comes with the code
                text=" ".join(strip_tags(html).split()),
                language=language,
            )
        )
    return Guide(slug=file.stem, title=sections[0].title, sections=tuple(sections))


def _mend_addresses(tokens: list[Token]) -> None:
    """Point pictures and links to where Oido serves them: in the source they lead to files."""
    for token in tokens:
        _mend_addresses(token.children or [])
        if token.type == "image":
            source = str(token.attrs["src"])
            token.attrs["src"] = static("guide/" + source.removeprefix(PICTURES))
            token.attrs["loading"] = "lazy"
        elif token.type == "link_open":
            token.attrs["href"] = re.sub(r"^(\w+)\.md", r"../\1/", str(token.attrs["href"]))


def search(words: str, guides: Iterable[Guide]) -> list[Hit]:
    """Return the sections of these guides that have all words, those with a word in their title first."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    hits = [
        (not any(word in section.title.casefold() for word in wanted), guide, section)
        for guide in guides
        for section in guide.sections
        if all(word in f"{section.title} {section.text}".casefold() for word in wanted)
    ]
    hits.sort(key=lambda hit: hit[0])
    return [
        Hit(guide=guide, section=section, snippet=_snippet(section.text, wanted[0]))
        for _is_in_text_only, guide, section in hits[:MAX_HITS]
    ]


def _snippet(text: str, word: str) -> str:
    """Return the words around the first place of a word."""
    place = max(0, text.casefold().find(word) - SNIPPET_LENGTH // 3)
    start = text.rfind(" ", 0, place) + 1
    end = start + SNIPPET_LENGTH
    return ("… " if start else "") + text[start:end].rsplit(" ", 1)[0] + (" …" if end < len(text) else "")
