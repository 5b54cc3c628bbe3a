"""The camera nobody has to own: forward simulation of dusty test frames with known truth."""

from neatpatch.core.virtual_camera.camera import Camera, Shot, Target, expose
from neatpatch.core.virtual_camera.particles import Particle, scatter
from neatpatch.core.virtual_camera.shadows import Shadow, render

__all__ = ["Camera", "Particle", "Shadow", "Shot", "Target", "expose", "render", "scatter"]
