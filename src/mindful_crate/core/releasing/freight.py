"""What carriers take for cartons, by their rates: exact money, by weight, size, service and town."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from decimal import Decimal

from mindful_crate.core.catalog.goods import Carrier, Rate
from mindful_crate.core.catalog.ids import CarrierCode, PlateNo
from mindful_crate.core.record import record

KILO = 1_000_000
"""Milligrams of a kilogram."""
LITRE = 1_000_000
"""Cubic millimetres of a litre."""


@record
class Piece:
    """A carton or plate as a carrier sees it: what it weighs, in milligrams, and its outside, in cubic millimetres."""

    number: PlateNo
    weight_mg: int
    volume_mm3: int


@record
class FreightOffer:
    """What a carrier takes for some pieces by a service; None with the reason why it does not take them. ``by_volume`` of them weigh by their size."""

    carrier: CarrierCode
    service: str
    price: Decimal | None
    says: str
    by_volume: int = 0


def kilograms(rate: Rate, piece: Piece) -> tuple[int, bool]:
    """How many kilograms begun a piece is taken as, and whether its size says so."""
    real = -(-piece.weight_mg // KILO)
    by_size = -(-piece.volume_mm3 // (LITRE * rate.litres_per_kilogram)) if rate.litres_per_kilogram else 0
    return max(real, by_size), by_size > real


def offers(
    carriers: Iterable[Carrier], rates: Sequence[Rate], pieces: Sequence[Piece], town: str
) -> list[FreightOffer]:
    """What each carrier takes by each of its services: those that take them first, the cheapest first."""
    found = [
        _offer(carrier.code, service, rates, pieces, town)
        for carrier in carriers
        for service in (carrier.services or ("",))
    ]
    return sorted(found, key=lambda o: (o.price is None, o.price or Decimal(0), o.carrier, o.service))


def _offer(
    carrier: CarrierCode, service: str, rates: Sequence[Rate], pieces: Sequence[Piece], town: str
) -> FreightOffer:
    mine = [r for r in rates if r.carrier == carrier and r.service in (service, "")]
    there = [r for r in mine if r.town and r.town.casefold() == town.casefold()]
    anywhere = [r for r in mine if not r.town]
    best = sorted(there or anywhere, key=lambda r: r.service != service)
    if not best:
        says = f"has no rate to {town}" if mine and town else "has no rate"
        return FreightOffer(carrier, service, None, says)
    rate, total, bulky = best[0], Decimal(0), 0
    for piece in pieces:
        weight, by_size = kilograms(rate, piece)
        if rate.most_kilograms and -(-piece.weight_mg // KILO) > rate.most_kilograms:
            return FreightOffer(
                carrier, service, None, f"takes nothing above {rate.most_kilograms} kg: `{piece.number}` is heavier"
            )
        total += rate.base + rate.per_kilogram * weight
        bulky += by_size
    where = f" to {rate.town}" if rate.town else ""
    says = f"{rate.base} each and {rate.per_kilogram} a kilogram{where}"
    return FreightOffer(carrier, service, total, says, bulky)
