"""Generic grades of materials to begin with: nominal values at room temperature, to be edited in the study."""

from ulmek.study.items import Hardening, HardeningRow, Material, RubberConstants


def _metal(
    name: str, label: str, young: str, poisson: float, yield_stress: str, density: str,
    hardening: Hardening | None = None,
) -> Material:  # fmt: skip
    return Material(
        id=name, name=label, young=young, poisson=poisson, yield_stress=yield_stress, density=density,
        hardening=hardening,
    )  # fmt: skip


def _table(*rows: tuple[float, str]) -> Hardening:
    return Hardening(table=[HardeningRow(strain=e, stress=s) for e, s in rows])


# Elastic constants and densities as in any engineering handbook; yield stresses are the least of the grade (EN 10025-2
# and EN ISO 898-1 for the steels). The bilinear table of S355 hardens by E/100 (EN 1993-1-5, annex C.6).
GRADES = (
    _metal("steel", "Steel S355", "210 GPa", 0.3, "355 MPa", "7850 kg/m^3"),
    _metal("steel-235", "Steel S235", "210 GPa", 0.3, "235 MPa", "7850 kg/m^3"),
    _metal("steel-yielding", "Steel S355, yielding", "210 GPa", 0.3, "355 MPa", "7850 kg/m^3",
           _table((0.0, "355 MPa"), (0.05, "460 MPa"))),
    _metal("bolt-8-8", "Bolt steel 8.8", "210 GPa", 0.3, "640 MPa", "7850 kg/m^3"),
    _metal("bolt-10-9", "Bolt steel 10.9", "210 GPa", 0.3, "940 MPa", "7850 kg/m^3"),
    _metal("hard-steel", "Hardened steel", "210 GPa", 0.3, "900 MPa", "7850 kg/m^3"),
    _metal("stainless", "Stainless steel, austenitic", "195 GPa", 0.3, "210 MPa", "7900 kg/m^3"),
    _metal("grey-iron", "Grey cast iron", "110 GPa", 0.26, "160 MPa", "7200 kg/m^3"),
    _metal("ductile-iron", "Ductile cast iron", "169 GPa", 0.28, "250 MPa", "7100 kg/m^3"),
    _metal("bronze", "Bronze", "105 GPa", 0.34, "170 MPa", "8800 kg/m^3"),
    _metal("brass", "Brass", "97 GPa", 0.35, "200 MPa", "8500 kg/m^3"),
    _metal("aluminium", "Aluminium alloy, wrought", "70 GPa", 0.33, "240 MPa", "2700 kg/m^3"),
    _metal("titanium", "Titanium alloy", "114 GPa", 0.34, "830 MPa", "4430 kg/m^3"),
    _metal("acetal", "Acetal plastic", "2.8 GPa", 0.38, "65 MPa", "1410 kg/m^3"),
    _metal("polyamide", "Polyamide plastic", "1.8 GPa", 0.4, "50 MPa", "1140 kg/m^3"),
    # Small-strain modulus 6·C10: 2.4 and 4.8 MPa; nearly incompressible.
    Material(id="rubber-soft", name="Rubber, soft", rubber=RubberConstants(c10="0.4 MPa", bulk="400 MPa"),
             density="1100 kg/m^3"),
    Material(id="rubber-firm", name="Rubber, firm", rubber=RubberConstants(c10="0.8 MPa", bulk="800 MPa"),
             density="1150 kg/m^3"),
)  # fmt: skip
