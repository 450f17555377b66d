"""Quadrilateral outline meshes, sweeps to bricks, quality and skins."""
