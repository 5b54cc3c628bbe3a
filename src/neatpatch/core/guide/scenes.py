"""What the drawing of each instruction shows, from the state model: the camera and the tool."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.facts import Access, Item
from neatpatch.core.common.words import counted
from neatpatch.core.guide.camera_state import CameraState, as_found, do
from neatpatch.core.guide.instruction import Act, Instruction, Scene, Setting

_MAIN: tuple[Act, ...] = (
    "touch",
    "air",
    "shake",
    "retest",
    "sheen",
    "close",
    "open",
    "lens_look",
    "unwrap",
    "wet",
    "even",
    "menu_open",
    "latch_up",
    "latch_down",
    "lens_to_cap",
)
"""Of several acts in one instruction the drawing shows this one, the first that is there."""
_USUAL_TOOL: dict[Decision, Item] = {
    "air": "bulb_blower",
    "brush": "charged_brush",
    "lift": "gel_stick",
    "dry_swab": "dry_swab",
    "dry_followup": "dry_swab",
    "wet_swab": "wet_swab",
    "corner_swab": "corner_swab",
}
_TOOL_OF: dict[Act, Item] = {
    "wash": "bulb_blower",
    "lens_air": "bulb_blower",
    "lens_brush": "lens_brush",
    "lens_wipe": "lens_wipe",
}
_NEEDS_TOOL: frozenset[Act] = frozenset(
    ("gather", "clear", "charge", "ready_tip", "unwrap", "fold", "wet", "even", "air", "touch")
)
_MIRRORED: frozenset[Access] = frozenset(("mirror", "fixed_mirror"))


def drawn(
    instructions: Sequence[Instruction], step: Decision, setting: Setting
) -> tuple[Instruction, ...]:
    """The instructions in their order, each with the scene of its drawing."""
    state = as_found(setting.body)
    shown = []
    for instruction in instructions:
        before = replace(state)
        for act in instruction.acts:
            do(act, state, setting.body)
        scene = _scene(instruction, before, state, step, setting)
        shown.append(instruction.model_copy(update={"scene": scene}))
    return tuple(shown)


def main_act(acts: Sequence[Act]) -> Act | None:
    """The act that a drawing shows; None for an instruction that does nothing."""
    first = next((act for act in _MAIN if act in acts), None)
    return first or (acts[-1] if acts else None)


def _scene(
    instruction: Instruction,
    before: CameraState,
    after: CameraState,
    step: Decision,
    setting: Setting,
) -> Scene | None:
    act = main_act(instruction.acts)
    if act is None:
        return None
    body = setting.body
    scene = Scene(
        act=act,
        access=body.access,
        lies=after.lies,
        was=before.mouth,
        mouth=after.mouth,
        mirror=("up" if after.mirror_up else "down") if body.access in _MIRRORED else None,
        covered=after.cover_open is False,
        power=after.power,
        tool=_tool(act, step, setting),
        fluid=before.fluid if act == "touch" else after.fluid,
        count=instruction.target,
        stroke=setting.plan.stroke if act == "touch" and setting.plan.strokes else None,
    )
    return scene.model_copy(update={"words": _words(scene)})


def _tool(act: Act, step: Decision, setting: Setting) -> Item | None:
    if act in _TOOL_OF:
        return _TOOL_OF[act]
    if act not in _NEEDS_TOOL:
        return None
    return setting.item or _USUAL_TOOL.get(step)


_NAMES: dict[Item, str] = {
    "bulb_blower": "the blower",
    "electric_blower": "the electric blower",
    "gas_can": "the can",
    "charged_brush": "the brush",
    "lens_brush": "the lens brush",
    "gel_stick": "the gel stick",
    "dry_swab": "the dry swab",
    "wet_swab": "the swab",
    "corner_swab": "the narrow swab",
    "sterile_pad": "the pad",
    "moist_wipe": "the moist wipe",
    "cloth_wand": "the wand",
    "lens_wipe": "the lens wipe",
}
_LIES = {
    "table": "The camera on the table",
    "back": "The camera on its back",
    "down": "The camera held with its opening down",
    "aimed": "The camera",
}
_LIES_BACK = {
    "table": "The digital back",
    "back": "The digital back, glass up",
    "down": "The digital back, glass down",
    "aimed": "The camera",
}


def _words(scene: Scene) -> str:
    """The drawing for those who hear it."""
    tool = _NAMES.get(scene.tool, "the tool") if scene.tool else "the tool"
    moved = _MOVES[scene.act].format(tool=tool, how=_how(scene), lid=_lid(scene), lens=_lens(scene))
    if scene.act in _WITHOUT_CAMERA:
        return f"{moved[:1].upper()}{moved[1:]}."
    where = (_LIES_BACK if scene.access == "digital_back" else _LIES)[scene.lies]
    mirror = f", mirror {scene.mirror}" if scene.mirror and scene.mouth == "open" else ""
    return f"{where}{mirror}: {moved}."


_WITHOUT_CAMERA: frozenset[Act] = frozenset(
    (
        "gather",
        "clear",
        "charge",
        "ready_tip",
        "unwrap",
        "fold",
        "lens_look",
        "lens_air",
        "lens_brush",
        "lens_wipe",
    )
)
_MOVES: dict[Act, str] = {
    "wash": "washed hands, and the blower at the outside",
    "gather": "{tool} and what else is needed within reach, {lid} in front",
    "power_on": "power on, battery full",
    "power_off": "power off",
    "battery_out": "the battery out",
    "menu_open": "power on, and what covers the sensor moves away",
    "latch_up": "the mirror goes up by its latch",
    "latch_down": "the mirror comes down by its latch",
    "lens_to_cap": "the lens off, {lid} on at once",
    "lay_back": "laid down",
    "turn_down": "turned over",
    "clear": "{tool} blows into the room",
    "charge": "air blown across {tool}",
    "ready_tip": "{tool} pressed on a fresh sticky patch",
    "unwrap": "{tool} comes out of its wrapping",
    "fold": "a cloth folded over the wand",
    "open": "{lid} off",
    "look": "an eye looks in",
    "wet": "{how} from the bottle on {tool}",
    "even": "the damp line on {tool} evens out",
    "air": "{tool} blows upward from outside the mount, dust falls out",
    "touch": "{tool}, {how}",
    "sheen": "tilted under the lamp",
    "close": "{lid} on",
    "lens_look": "a torch on the lens's glass",
    "lens_air": "{tool} at the lens's glass, facing down",
    "lens_brush": "{tool}, from the middle of the lens's glass outward",
    "lens_wipe": "{tool}, from the middle of the lens's glass outward",
    "lens_on": "{lens} goes on",
    "shake": "the sensor shakes",
    "retest": "its lens toward an even target, moving as it is shot",
}
_TOUCHES: dict[Item, str] = {
    "gel_stick": "pressed straight down and lifted straight up",
    "silicone_pad": "pressed straight down and lifted straight up",
    "charged_brush": "only its hair tips on the glass, one way",
    "lens_brush": "only its hair tips on the glass, one way",
    "sterile_pad": "over a fingertip, in small circles on the glass",
    "corner_swab": "along the edge, from the middle outward and off",
}
_STROKES = {
    "same_way": "tilted, edge to edge, each time the same way",
    "return_other_face": "tilted, edge to edge, and back with its other face",
    "across_and_back": "tilted, across and back",
    "circles": "tilted, in small circles along the glass",
    None: "tilted, edge to edge",
}


def _lid(scene: Scene) -> str:
    back = scene.access == "digital_back"
    if scene.act == "open" and scene.was == "lens":
        return "the camera" if back else "the lens"
    return "the cover" if back else "the cap"


def _lens(scene: Scene) -> str:
    return "the camera" if scene.access == "digital_back" else "the lens"


def _how(scene: Scene) -> str:
    if scene.act == "wet":
        return counted(scene.count or 1, "drop")
    if scene.tool is None:
        return ""
    return _TOUCHES.get(scene.tool) or _STROKES[scene.stroke]
