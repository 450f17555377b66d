"""Bending of gear teeth."""


def tooth_root_stress(force: float, width: float, module: float, form_factor: float) -> float:
    """σ = F/(b·m·Y) in MPa: tangential force (N), face width and module (mm), form factor Y (Lewis 1892)."""
    return force / (width * module * form_factor)


def tooth_fillet_factor(root_thickness: float, fillet: float, arm: float) -> float:
    """Stress in the root fillet over that of the beam, at a pressure angle of 20°: 0.18 + (s/ρ)^0.15 (s/h)^0.45 with
    root thickness s, fillet radius ρ and arm h in mm (Dolan and Broghamer 1942, photoelastic)."""
    return float(0.18 + (root_thickness / fillet) ** 0.15 * (root_thickness / arm) ** 0.45)


def tooth_beam_stress(force: float, width: float, arm: float, root_thickness: float) -> float:
    """Root stress (MPa) of the tooth as a cantilever: 6·F·h/(b·s²), arm h and root thickness s in mm."""
    return 6 * force * arm / (width * root_thickness**2)
