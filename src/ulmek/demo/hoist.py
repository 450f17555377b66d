"""What the smaller demos of the sluice gate hoist share: materials, and parts by recipe."""

from typing import Any

MACHINE = "Sluice gate hoist"
STEEL = {
    "id": "steel", "name": "Steel S355", "young": "210 GPa", "poisson": 0.3, "yield_stress": "355 MPa",
    "density": "7850 kg/m^3",
}  # fmt: skip
HARD_STEEL = {
    "id": "hard-steel", "name": "Hardened steel", "young": "210 GPa", "poisson": 0.3, "yield_stress": "900 MPa",
}  # fmt: skip
BRONZE = {"id": "bronze", "name": "Bronze", "young": "105 GPa", "poisson": 0.34, "yield_stress": "170 MPa"}


def part(
    name: str, label: str, material: str, recipe: str, dimensions: dict[str, Any], mesh: dict[str, Any],
    at: tuple[str, str, str] = ("0 mm", "0 mm", "0 mm"), turn: dict[str, str] | None = None,
) -> dict[str, Any]:  # fmt: skip
    """A part of a study document by recipe."""
    place: dict[str, Any] = {"at": list(at)} | ({"turn": turn} if turn else {})
    return {
        "id": name, "name": label, "material": material, "recipe": {"kind": recipe, "dimensions": dimensions},
        "mesh": mesh, "placements": [place],
    }  # fmt: skip


def steps(*names: tuple[str, str], size: float = 0.25) -> list[dict[str, Any]]:
    """Steps (id, name) in increments of ``size``."""
    return [{"id": i, "name": n, "increments": {"start": size, "largest": size}} for i, n in names]
