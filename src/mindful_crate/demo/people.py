"""The people of the demo. All made up."""

from __future__ import annotations

from dataclasses import dataclass

DEMO_PASSWORD = "quay"


@dataclass(frozen=True, slots=True)
class DemoPerson:
    """Somebody at Halloway Quay."""

    id: str
    name: str
    role: str
    crews: tuple[str, ...] = ()
    site: str = ""
    """Where a handset begins; ``flow``: with what."""
    flow: str = ""

    @property
    def login(self) -> str:
        """What this person signs in with."""
        return self.id


DEMO_PEOPLE = (
    DemoPerson("ines", "Ines Varga", "analyst"),
    DemoPerson("tove", "Tove Lindqvarn", "supervisor", ("quay", "hazard", "floor")),
    DemoPerson("oren", "Oren Maddock", "floor", ("quay", "floor")),
    DemoPerson("mara", "Mara Tilsen", "floor", ("quay", "hazard"), "HQ", "F-RECEIVE"),
    DemoPerson("sefa", "Sefa Monroe", "floor", ("reach",), "HQ", "F-PUTAWAY"),
    DemoPerson("jonah", "Jonah Pell", "floor", ("store",)),
    DemoPerson("lotte", "Lotte Brandvik", "floor", ("inspect", "quay")),
    DemoPerson("anouk", "Anouk Verrel", "supervisor", ("store", "reach")),
    DemoPerson("petra", "Petra Solheim", "buyer"),
    DemoPerson("vik", "Vik Osterby", "viewer"),
    DemoPerson("counting-house", "The counting house", "host"),
)
