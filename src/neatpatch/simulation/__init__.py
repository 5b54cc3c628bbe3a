"""The camera nobody has to own: forward simulation of dusty test frames with known truth."""

from neatpatch.simulation.camera import Camera, Shot, Target, expose
from neatpatch.simulation.particles import Particle, scatter
from neatpatch.simulation.shadows import Shadow, View, render

__all__ = ["Camera", "Particle", "Shadow", "Shot", "Target", "View", "expose", "render", "scatter"]
