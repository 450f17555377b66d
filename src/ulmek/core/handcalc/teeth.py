"""Bending of gear teeth."""


def tooth_root_stress(force: float, width: float, module: float, form_factor: float) -> float:
    """σ = F/(b·m·Y) in MPa: tangential force (N), face width and module (mm), form factor Y (Lewis 1892)."""
    return force / (width * module * form_factor)


def tooth_beam_stress(force: float, width: float, arm: float, root_thickness: float) -> float:
    """Root stress (MPa) of the tooth as a cantilever: 6·F·h/(b·s²), arm h and root thickness s in mm."""
    return 6 * force * arm / (width * root_thickness**2)
