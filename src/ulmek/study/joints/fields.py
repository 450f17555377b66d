"""What can be asked of each kind of joint, in words: the page draws its controls from this table."""

from typing import Literal

from pydantic import BaseModel

Control = Literal["written", "number", "choice", "switch", "face", "faces"]


class AskField(BaseModel):
    """An entry of what is asked: a quantity with its unit or a text, a number, one of a few, on or off, or faces.

    options: values and labels of a choice. shown_if: other entries and the values with which this one counts. empty:
    what it means where nothing is written. is_rare: asked for seldom, shown on request.
    """

    name: str
    label: str
    control: Control = "written"
    options: list[tuple[str, str]] = []
    shown_if: dict[str, list[str]] = {}
    empty: str = ""
    is_rare: bool = False


class JointSort(BaseModel):
    """A kind of joint: what it is for, and what can be asked of it."""

    kind: str
    label: str
    summary: str
    fields: list[AskField]


def _choice(name: str, label: str, *options: tuple[str, str], **shown_if: list[str]) -> AskField:
    return AskField(name=name, label=label, control="choice", options=list(options), shown_if=shown_if)


def _written(name: str, label: str, **shown_if: list[str]) -> AskField:
    return AskField(name=name, label=label, shown_if=shown_if)


def _number(name: str, label: str, **shown_if: list[str]) -> AskField:
    return AskField(name=name, label=label, control="number", shown_if=shown_if)


def _switch(name: str, label: str) -> AskField:
    return AskField(name=name, label=label, control="switch")


def _faces(name: str, label: str, control: Control = "faces") -> AskField:
    return AskField(name=name, label=label, control=control)


_STRENGTHS = tuple((c, c) for c in ("4.6", "5.6", "5.8", "6.8", "8.8", "10.9", "12.9"))


def _rare(field: AskField) -> AskField:
    return field.model_copy(update={"is_rare": True})


_TOGETHER = _rare(_switch("keep_together", "Keeps its parts together"))
_FOR = _written("force", "By hand, for a force of")

SORTS_IN_WORDS = [
    JointSort(
        kind="bolted",
        label="Bolted",
        summary="Bolts through holes in line clamp parts.",
        fields=[
            _faces("holes", "Holes, from the far end to the head"),
            AskField(name="diameter", label="Thread", empty="by the hole"),
            _choice("strength", "Property class", *_STRENGTHS),
            _rare(
                _choice(
                    "modelled",
                    "Modelled as",
                    ("solid", "solids"),
                    ("line-stiff", "lines, stiff ends"),
                    ("line-averaging", "lines, averaging ends"),
                )
            ),
            _choice("far_end", "Far end", ("nut", "nut"), ("thread", "thread in the part"), ("ground", "the ground")),
            _switch("wall", "On a datum wall"),
            _choice(
                "washers",
                "Washers",
                ("none", "none"),
                ("head", "under heads"),
                ("both", "under both"),
                modelled=["solid"],
            ),
            _choice("tightened_by", "Tightened by", ("use", "use of proof"), ("force", "force"), ("torque", "torque")),
            _number("use", "Share of the proof load", tightened_by=["use"]),
            _written("force", "Tightened to", tightened_by=["force"]),
            _written("torque", "Tightening moment", tightened_by=["torque"]),
            _rare(_number("nut_factor", "Nut factor K")),
            _rare(_number("scatter", "Scatter of tightening ±")),
            _number("mu", "µ between the parts"),
            _rare(_number("mu_heads", "µ under heads and nuts", modelled=["solid"])),
            _rare(
                _choice(
                    "shanks",
                    "Shanks in holes",
                    ("freely", "smooth"),
                    ("friction", "with friction"),
                    ("left-out", "left out"),
                    modelled=["solid"],
                )
            ),
            _rare(_switch("whole_pattern", "In all holes like it")),
            _rare(_switch("flipped", "Head on the other side")),
            _TOGETHER,
        ],
    ),
    JointSort(
        kind="pinned",
        label="Pinned",
        summary="A pin through holes in line.",
        fields=[
            _faces("holes", "Holes, in line"),
            _choice("fit", "Pin in the holes", ("snug", "snug"), ("class", "by class"), ("clearance", "with play")),
            _written("fit_class", "Fit", fit=["class"]),
            _written("clearance", "Play of the diameters", fit=["clearance"]),
            _choice("kept_by", "Kept in place by", ("spring", "soft spring"), ("guide", "guide"), ("heads", "heads")),
            _rare(_written("soft", "Soft spring", kept_by=["spring", "heads"])),
            _number("mu", "µ in the holes"),
            _TOGETHER,
        ],
    ),
    JointSort(
        kind="pressed",
        label="Pressed",
        summary="A shaft in a bore, with an overlap.",
        fields=[
            _faces("bore", "Bore", "face"),
            AskField(name="shaft", label="Shaft", control="face", empty="one is made"),
            _choice("by", "Overlap by", ("class", "class"), ("overlap", "value")),
            _written("fit_class", "Fit", by=["class"]),
            _rare(
                _choice("limit", "Of its limits", ("least", "least"), ("mean", "mean"), ("most", "most"), by=["class"])
            ),
            _written("overlap", "Overlap of the radii", by=["overlap"]),
            _choice("asked", "Asked to hold", ("nothing", "nothing"), ("torque", "torque"), ("push", "push")),
            _written("torque", "Torque", asked=["torque"]),
            _written("push", "Push along the axis", asked=["push"]),
            _number("mu", "µ in the fit"),
            _TOGETHER,
        ],
    ),
    JointSort(
        kind="geared",
        label="Geared",
        summary="Two gears in mesh.",
        fields=[
            _faces("stays", "Gear that stays", "face"),
            _faces("moved", "Gear that comes to it", "face"),
            _written("backlash", "Backlash"),
            _choice("driven", "The second gear is", ("loaded", "loaded"), ("turned", "turned")),
            _written("torque", "Torque"),
            _written("turn", "Turned by", driven=["turned"]),
            _number("mu", "µ of the flanks"),
        ],
    ),
    JointSort(
        kind="seated",
        label="Seated",
        summary="Faces that rest on each other.",
        fields=[
            _faces("a", "Faces that come"),
            _faces("b", "Faces that stay"),
            _number("mu", "µ"),
            _FOR,
            _TOGETHER,
        ],
    ),
    JointSort(
        kind="guided",
        label="Guided",
        summary="A shank that slides in a bore.",
        fields=[
            _faces("bore", "Bore", "face"),
            _faces("shank", "Shank", "face"),
            _written("clearance", "Play of the diameters"),
            _number("mu", "µ (0: smooth)"),
            _FOR,
            _TOGETHER,
        ],
    ),
    JointSort(
        kind="hinged",
        label="Hinged",
        summary="Round faces that turn about their axis, on each other or the ground.",
        fields=[
            _faces("a", "First face", "face"),
            AskField(name="b", label="Second face", control="face", empty="the ground"),
            _choice("ends", "Faces are led", ("averaging", "on average"), ("rigid", "rigidly")),
        ],
    ),
    JointSort(
        kind="on-wall",
        label="On a datum wall",
        summary="Faces that rest on a rigid wall where they lie.",
        fields=[
            _faces("faces", "Faces on the wall"),
            _number("mu", "µ"),
            _FOR,
        ],
    ),
]


def label_of(kind: str) -> str:
    """A kind of joint in words."""
    return next(s.label for s in SORTS_IN_WORDS if s.kind == kind)
