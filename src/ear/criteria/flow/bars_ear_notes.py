"""Ear notes about what is asked of bars in a free exercise: none empty, enough notes and not too many, pairs alike."""

from dataclasses import dataclass

from ear.criteria.flow import FLOW
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FULL, FindingKind, Tone
from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy


@dataclass(frozen=True, kw_only=True)
class BarsNotAsAsked(Finding):
    """`count` bars, the first of them `where`, have other numbers of notes than is asked for."""

    count: int
    where: int
    asked: int
    """The limit that they do not keep to."""

    UNIT = "bars"

    @property
    def size(self) -> float:
        """Bars."""
        return float(self.count)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the bars and the limit, too."""
        return super().gaps(reader) | {"count": self.count, "where": self.where, "asked": self.asked}


class BarsEmpty(BarsNotAsAsked):
    """Bars without a note."""

    KIND = FindingKind(
        code="bars_empty", criterion=FLOW, why=("bars_empty",), is_of_whole=True, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy("Nothing is played in bar {where}.", "Nothing is played in {count} bars, the first bar {where}."),
        student=ngettext_lazy(
            "Bar {where} is empty. One note is enough to keep the music going.",
            "{count} bars are empty, the first bar {where}. One note in each is enough to keep going."),
    )  # fmt: skip


class BarsThin(BarsNotAsAsked):
    """Bars with too few notes."""

    KIND = FindingKind(
        code="bars_thin", criterion=FLOW, why=("bars_thin",), is_of_whole=True, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy(
            "Bar {where} has too few notes; the minimum is {asked}.",
            "{count} bars have too few notes, the first of them bar {where}; the minimum is {asked}."),
        student=gettext_noop("Play {asked} notes or more in every bar; in bar {where} there were fewer."),
    )  # fmt: skip


class BarsFull(BarsNotAsAsked):
    """Bars with too many notes."""

    KIND = FindingKind(
        code="bars_full", criterion=FLOW, why=("bars_full",), is_of_whole=True, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy(
            "Bar {where} has too many notes; the maximum is {asked}.",
            "{count} bars have too many notes, the first of them bar {where}; the maximum is {asked}."),
        student=gettext_noop("Play no more than {asked} notes in a bar; in bar {where} there were more. Leave room."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class NotRepeated(Finding):
    """Second bars of pairs do not repeat the first."""

    share: float
    """Of them, those that do."""

    UNIT = "share"
    KIND = FindingKind(
        code="not_repeated", criterion=FLOW, why=("not_repeated",), is_of_whole=True, tone=Tone.FACT,
        # xgettext:no-python-format
        teacher=gettext_noop("Every second bar should repeat the one before: {percent}% of it does."),
        student=gettext_noop("Every second bar should repeat the one before. Play less in the first, so that you can keep it in mind."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Share of those that repeat."""
        return self.share

    def gaps(self, reader: Reader) -> Gaps:
        """Return the share in per cent, too."""
        return super().gaps(reader) | {"percent": round(100 * self.share)}
