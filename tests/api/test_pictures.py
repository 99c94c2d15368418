"""Pictures of items through the doors: who may bring them, what is said of those that are none, and that none is fine."""

from __future__ import annotations

from io import BytesIO
from typing import Any

from PIL import Image

from tests.api.conftest import HEADER, Api


def brings(who: Api, name: str, data: bytes) -> Any:
    mark = b"--a-mark"
    head = b'\r\nContent-Disposition: form-data; name="%s"%s\r\n\r\n'
    parts = [mark, head % (b"name", b""), name.encode(), b"\r\n", mark, head % (b"file", b'; filename="any.png"'), data, b"\r\n", mark, b"--\r\n"]  # fmt: skip
    kind = "multipart/form-data; boundary=a-mark"
    return who.client.post("/api/pictures", data=b"".join(parts), content_type=kind, headers=HEADER)


def red(width: int, height: int) -> bytes:
    held = BytesIO()
    Image.new("RGB", (width, height), "red").save(held, "PNG")
    return held.getvalue()


def test_a_picture_is_brought_in_seen_replaced_and_taken_off(ines: Api) -> None:
    """A browser that has it asks whether it changed; one that is not there is said not to be."""
    assert ines.get("/api/pictures/BELL").json["code"] == "unknown_picture"
    assert brings(ines, " BELL ", red(1280, 640)).json == {**brings(ines, "BELL", red(1280, 640)).json, "name": "BELL", "width": 640, "height": 320}  # fmt: skip
    first = ines.get("/api/pictures/BELL")
    assert first.content_type == "image/webp" and Image.open(BytesIO(first.data)).size == (640, 320)
    again = {"If-None-Match": first.headers["ETag"]}
    assert ines.client.get("/api/pictures/BELL", headers=again).status_code == 304
    assert brings(ines, "BELL", red(100, 100)).status_code == 200
    assert ines.client.get("/api/pictures/BELL", headers=again).status_code == 200
    assert ines.post("/api/pictures/BELL", method="DELETE").status_code == 204
    assert ines.get("/api/pictures/BELL").status_code == 404


def test_what_is_no_picture_is_refused_and_the_old_one_stays(app: Any, ines: Api) -> None:
    """40 MB are turned away before they are read; the floor looks and brings nothing."""
    brings(ines, "LAMP", red(90, 90))
    assert brings(ines, "LAMP", b"no picture").json["code"] == "no_picture"
    large = brings(ines, "LAMP", b"\0" * 40_000_000)
    assert large.status_code == 413 and "13 MB" in large.json["title"]
    assert "bring it in parts" not in large.json["title"]
    assert brings(ines, "LAMP", b"\0" * 12_500_000).json["code"] == "picture_too_large"
    assert brings(ines, "a/b", red(9, 9)).json["code"] == "bad_name"
    assert brings(ines, "  ", red(9, 9)).json["code"] == "bad_name"
    assert Image.open(BytesIO(ines.get("/api/pictures/LAMP").data)).size == (90, 90)
    oren = Api(app.test_client(), "oren")
    assert oren.get("/api/pictures/LAMP").status_code == 200
    assert brings(oren, "LAMP", red(9, 9)).status_code == 403
    assert app.test_client().get("/api/pictures/LAMP").status_code == 401


def test_the_handset_is_told_the_picture_of_what_it_asks_about(ines: Api) -> None:
    """From the item on; of an item without one, none."""
    world, hand = ines.world(), {"device": "H1", "person": "oren"}
    asked = ines.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, **hand).json["handset"]["question"]

    def then(act: dict[str, Any]) -> Any:
        said = ines.command(world, {"dialogue": asked["dialogue"], **act}, **hand).json
        return said["handset"]["question"]

    def scan(text: str) -> Any:
        return then({"kind": "answer", "scan": {"text": text, "how": "scanned"}})

    scan("PO-1001")
    assert scan("SHK-08")["picture"] == "SHK-08"
    assert ines.get("/api/pictures/SHK-08").status_code == 200
    then({"kind": "step_back"})
    assert then({"kind": "step_back"})["picture"] == ""
    scan("PO-1004")
    assert scan("FLR-HH")["picture"] == ""


def test_a_photo_has_the_name_of_what_is_on_it(app: Any, ines: Api) -> None:
    """Sent twice it is there once; none is put in its place or taken away; what is none is refused; who only looks takes none."""

    def takes(who: Api, data: bytes) -> Any:
        body = b'--m\r\nContent-Disposition: form-data; name="file"; filename="a"\r\n\r\n' + data + b"\r\n--m--\r\n"
        kind = "multipart/form-data; boundary=m"
        return who.client.post("/api/photos", data=body, content_type=kind, headers=HEADER)

    oren, vik = Api(app.test_client(), "oren"), Api(app.test_client(), "vik")
    name = takes(oren, red(70, 50)).json["name"]
    assert name.startswith("photo-") and takes(oren, red(70, 50)).json["name"] == name
    assert Image.open(BytesIO(vik.get(f"/api/pictures/{name}").data)).size == (70, 50)
    assert takes(vik, red(9, 9)).status_code == 403
    assert takes(oren, b"none").json["code"] == "no_picture"
    assert takes(oren, b"\0" * 40_000_000).status_code == 413
    assert brings(ines, name, red(9, 9)).json["code"] == "bad_name"
    assert ines.post(f"/api/pictures/{name}", method="DELETE").json["code"] == "photo_stays"
