"""Routes for joints: begun from what is picked, looked at before they are made, made and looked into."""

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from ulmek.api.models import StudyInfo
from ulmek.api.studies import Base, Ctx, scene_of, study_info
from ulmek.core.errors import UnknownNameError
from ulmek.study.edits import difference
from ulmek.study.items import StudyDocument
from ulmek.study.items.joint import Ask, JointUse
from ulmek.study.joints.begin import ask_for, in_words, made
from ulmek.study.joints.follow import made_of
from ulmek.study.joints.made import HandFigure
from ulmek.study.translate import body_names

router = APIRouter(prefix="/api", tags=["joints"])


class Picked(BaseModel):
    """Faces that are to be joined, and the kind of joint where it is chosen."""

    faces: Annotated[list[str], Field(max_length=200)]
    kind: str | None = None


class Asked(BaseModel):
    """What a joint is asked to be, and its name."""

    ask: Annotated[Ask, Field(discriminator="kind")]
    name: Annotated[str, Field(min_length=1, max_length=80)] | None = None


class JointInfo(BaseModel):
    """What a joint makes and what it takes in of what is there, in words; its closed form; what there is to say of it;
    and the bodies that are new."""

    name: str
    ask: Annotated[Ask, Field(discriminator="kind")]
    makes: str
    takes: str
    figures: list[HandFigure]
    told: list[str]
    bodies: list[str]


@router.post("/studies/{study_id}/joints/begin")
def begin_joint(study_id: int, picked: Picked, ctx: Ctx) -> JointInfo:
    """What picked faces would most likely be joined as, with everything that it would be made of."""
    study = ctx.store.whole_study(ctx.store.study(study_id))
    return _info(*made(study, ask_for(study, picked.faces, picked.kind), None), there=study)


@router.post("/studies/{study_id}/joints/preview")
def preview_joint(study_id: int, asked: Asked, ctx: Ctx) -> JointInfo:
    """What a joint would be made of."""
    study = ctx.store.whole_study(ctx.store.study(study_id))
    return _info(*made(study, asked.ask, asked.name), there=study)


@router.post("/studies/{study_id}/joints/scene", response_class=Response)
def preview_joint_scene(study_id: int, asked: Asked, ctx: Ctx) -> Response:
    """The study as it would be with a joint, as `study_scene`."""
    record = ctx.store.study(study_id)
    study, _ = made(ctx.store.whole_study(record), asked.ask, asked.name)
    return scene_of(ctx, study, record.revision)


@router.post("/studies/{study_id}/joints", status_code=201)
def make_joint(study_id: int, asked: Asked, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Make a joint as a whole; one step of undo."""
    record = ctx.store.study(study_id)
    study = ctx.store.whole_study(record)
    done, joint = made(study, asked.ask, asked.name)
    patch = difference(study, done)
    label = f"Make {joint.name}"[:120]
    return study_info(ctx, ctx.store.edit(study_id, patch, label=label, base_revision=base_revision))


@router.get("/studies/{study_id}/joints/{joint_id}")
def look_into_joint(study_id: int, joint_id: str, ctx: Ctx) -> JointInfo:
    """What a joint of the study is made of, and its closed form as it stands."""
    study = ctx.store.whole_study(ctx.store.study(study_id))
    joint = next((j for j in study.joints if j.id == joint_id), None)
    if joint is None:
        raise UnknownNameError(f"there is no joint '{joint_id}'.", where="joints")
    return _info(study, joint)


def _info(study: StudyDocument, joint: JointUse, *, there: StudyDocument | None = None) -> JointInfo:
    """``there``: the study as it is, where the joint is not made yet."""
    found = made_of(study, joint)
    before = {p.id for p in there.parts} if there is not None else set()
    own = [p for p in study.parts if p.id in joint.pieces.parts and p.id not in before]
    return JointInfo(
        name=joint.name, ask=joint.ask, makes=in_words(study, joint, there=there),
        takes="" if there is None else in_words(study, joint, there=there, is_new=False), figures=found.figures,
        told=[t for t in found.told if t], bodies=[name for part in own for name in body_names(part)],
    )  # fmt: skip
