"""Pictures of items: brought in, shown, taken away. Items name them; one that is not there is shown nowhere."""

from __future__ import annotations

from flask import Response, current_app, request
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import Field

from mindful_crate.api.doors import Denied, needs, person
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.problem import Refusal
from mindful_crate.core.work.inspecting.checks import is_photo, photo_name
from mindful_crate.files.pictures import Picture, taken
from mindful_crate.store import pictures

api = APIBlueprint("pictures", __name__, url_prefix="/api", abp_tags=[Tag(name="ground")], doc_ui=WITH_DOCUMENT)


class PictureForm(Body):
    """A picture, and the name items have for it."""

    name: str = Field(min_length=1, max_length=80)
    file: FileStorage


class PicturePath(Body):
    """A picture by its name."""

    name: str = Field(min_length=1, max_length=80)


class Taken(Answer):
    """A picture as it was taken."""

    name: str
    width: int
    height: int
    bytes: int


@api.post("/pictures", responses={200: Taken, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def put(form: PictureForm) -> Taken:
    """Take a picture; one of that name is replaced. It is made anew, no side longer than 640 pixels."""
    name = form.name.strip()
    if not name.isprintable() or "/" in name or not name or is_photo(name):
        says = "A picture's name is one line of text without a slash, and not that of a photo."
        raise Refusal("bad_name", says, "name")
    return _kept(name, taken(form.file.stream.read()))


class PhotoForm(Body):
    """A photo of what was seen."""

    file: FileStorage


@api.post("/photos", responses={200: Taken, **PROBLEMS})
@needs(Right.LOOK)
def photo(form: PhotoForm) -> Taken:
    """Take a photo from a handset, made anew like a picture. Its name follows from what is seen on it, so that one sent twice is
    there once, and none can be put in the place of another."""
    if not {Right.SCAN, Right.REHEARSE} & person().rights:
        raise Denied(403, f"Your role, {person().row.role}, takes no photos.")
    made = taken(form.file.stream.read())
    return _kept(photo_name(made.hash), made)


def _kept(name: str, made: Picture) -> Taken:
    with wired(current_app).database.transaction() as conn:
        pictures.keep(conn, name, made, person().id)
    return Taken(name=name, width=made.width, height=made.height, bytes=len(made.content))


@api.get("/pictures/<name>", responses={200: {"content": {"image/webp": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def picture(path: PicturePath) -> Response:
    """A picture as it is kept."""
    with wired(current_app).database.glance() as conn:
        found = pictures.find(conn, path.name)
    if found is None:
        raise Refusal("unknown_picture", f"There is no picture {path.name}.")
    tag = f'"{found[0]}"'
    headers = {"Cache-Control": "private, max-age=300", "ETag": tag}
    if request.headers.get("If-None-Match") == tag:
        return Response(status=304, headers=headers)
    return Response(found[1], mimetype="image/webp", headers=headers)


@api.delete("/pictures/<name>", responses={204: None, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def drop(path: PicturePath) -> Response:
    """Take a picture away; items that name it have none any more."""
    if is_photo(path.name):
        raise Refusal("photo_stays", "A photo belongs to what was said with it, and stays.")
    with wired(current_app).database.transaction() as conn:
        pictures.drop(conn, path.name)
    return Response(status=204)
