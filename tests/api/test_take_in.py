"""Taking in over the wire: what is typed stays what it was, photos stay photos, refer stays refer."""

from __future__ import annotations

import csv
import io
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
import segno
from PIL import Image

from conftest import Server, new_job, start_server
from hollow_pin.formats.ledger_csv import as_text
from sticks import recording_file

SCRIPTS = (
    "<script>alert('a')</script> \"quoted\" 'single' & <b>bold</b>\n=SUM(A1)\tтекст 漢字 ไทย العربية "
    "עברית हिन्दी 🐚 é e\u0301 \u202eturned\u202c ${x} {{y}} %s \\n --; DROP TABLE job;\n"
)
LONG = (SCRIPTS * 100)[:10_000]


@pytest.fixture
def job(http: httpx.Client) -> int:
    return new_job(http)


def view(http: httpx.Client, job: int) -> dict:
    return http.get(f"/api/jobs/{job}").json()


def told_of(job: dict) -> dict:
    return {key: job[key] for key in ("stick", "complaint", "moves", "intake")}


def change(http: httpx.Client, job: dict, **changes: object) -> httpx.Response:
    """As a window that has seen the job as it is given."""
    since = told_of(job)
    body = {"told": since | changes, "since": since, "revision": job["revision"]}
    return http.put(f"/api/jobs/{job['id']}/take-in", json=body)


def test_every_text_field_keeps_ten_thousand_characters_of_any_script(http: httpx.Client) -> None:
    job = new_job(http, complaint=LONG)
    job_view = view(http, job)["job"]
    texts = ("since", "tried_note", "cosmetic", "accessories", "price")
    intake = job_view["intake"] | dict.fromkeys(texts, LONG)
    answer = change(http, job_view, intake=intake)
    assert answer.status_code == 200, answer.text
    body = {"kind": "cleaned", "lot": "", "note": LONG, "cautions": []}
    codes = [
        c["code"]
        for w in http.get("/api/catalogue").json()["remedies"]
        if w["remedy"]["code"] == "cleaned"
        for c in w["cautions"]
    ]
    http.post(f"/api/jobs/{job}/work", json=body | {"cautions": codes}).raise_for_status()
    http.post(f"/api/jobs/{job}/entries", json={"text": LONG}).raise_for_status()
    http.put(f"/api/jobs/{job}/waiting", json={"waiting": "part", "text": LONG}).raise_for_status()
    http.post(
        f"/api/jobs/{job}/photos", files={"file": picture()}, data={"caption": LONG}
    ).raise_for_status()
    http.post(
        f"/api/jobs/{job}/close", json={"ended": "as-it-was", "outcome": LONG}
    ).raise_for_status()
    now = view(http, job)
    assert now["job"]["complaint"] == LONG.strip()
    assert all(now["job"]["intake"][field] == LONG for field in texts)
    assert now["job"]["outcome"] == LONG.strip()
    assert now["photos"][0]["caption"] == LONG.strip()
    by_kind = {e["kind"]: e["text"] for e in now["ledger"]}
    for kind in ("note", "work", "waiting", "photo", "close"):
        assert LONG.strip() in by_kind[kind], kind
    table = http.get(f"/api/jobs/{job}/ledger.csv")
    rows = list(csv.reader(io.StringIO(table.text.removeprefix("\ufeff"), newline="")))
    assert [r[3] for r in rows[1:]] == [as_text(e["text"]) for e in now["ledger"][::-1]]


def test_a_cell_that_would_compute_is_shown_instead(http: httpx.Client, job: int) -> None:
    for text in ("=1+1", "+1", "@x", "-1"):
        http.post(f"/api/jobs/{job}/entries", json={"text": text})
    table = http.get(f"/api/jobs/{job}/ledger.csv").text
    cells = [r[3] for r in csv.reader(io.StringIO(table))][-4:]
    assert cells == ["'=1+1", "'+1", "'@x", "'-1"]


@pytest.mark.parametrize("text", ["a\x00b", "x" * 10_001])
def test_text_that_cannot_be_kept_is_refused_by_name(
    http: httpx.Client, job: int, text: str
) -> None:
    answer = http.post(f"/api/jobs/{job}/entries", json={"text": text})
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "text")


def test_half_of_a_character_is_refused_and_not_stored(http: httpx.Client, job: int) -> None:
    answer = http.post(
        f"/api/jobs/{job}/entries",
        content=b'{"text": "\\ud83d"}',
        headers={"content-type": "application/json"},
    )
    assert answer.status_code == 422
    assert len(view(http, job)["ledger"]) == 1


def test_a_tag_with_slashes_and_marks_is_known_again(http: httpx.Client) -> None:
    tag = "GS/7 #?&%é"
    made = new_job(http, tag=tag)
    answer = http.get("/api/controllers", params={"tag": f"  {tag} "}).json()
    assert (answer["controller"]["tag"], answer["visits"], answer["open_job_id"]) == (tag, 1, made)


def test_the_bench_role_goes_on_record_with_what_is_done(http: httpx.Client, job: int) -> None:
    role = {"X-Bench-Role": "%C3%A9vening%20bench"}
    http.post(f"/api/jobs/{job}/entries", json={"text": "Looked."}, headers=role)
    assert view(http, job)["ledger"][0]["role"] == "évening bench"


def test_the_second_window_is_told_what_changed(http: httpx.Client, job: int) -> None:
    job_view = view(http, job)["job"]
    assert change(http, job_view, complaint="theirs").status_code == 200
    answer = change(http, job_view, complaint="mine")
    assert answer.status_code == 409
    assert answer.json()["title"] == "Changed meanwhile"
    assert answer.json()["errors"] == [{"field": "complaint", "message": "theirs"}]
    assert view(http, job)["job"]["complaint"] == "theirs"


def test_refer_is_not_got_round_over_the_wire(http: httpx.Client) -> None:
    job = new_job(http, moves="yes")
    job_view = view(http, job)["job"]
    for moves in ("no", ""):
        answer = change(http, job_view, moves=moves)
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (409, "moves")
    for ended in ("signed-off", "as-it-was", "withdrawn", "unsaid"):
        answer = http.post(f"/api/jobs/{job}/close", json={"ended": ended})
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (409, "ended")
    answer = http.post(f"/api/jobs/{job}/work", json={"kind": "recalibrated"})
    assert answer.status_code == 409
    caution = next(e for e in view(http, job)["ledger"] if e["kind"] == "caution")
    answer = http.post(f"/api/entries/{caution['id']}/undo", json={"revision": 1})
    assert answer.status_code == 409
    assert http.post(f"/api/jobs/{job}/close", json={"ended": "referred"}).status_code == 204


# Photos


def picture(size: tuple[int, int] = (640, 480), form: str = "JPEG", **more: object) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (90, 120, 80)).save(out, form, **more)
    return out.getvalue()


def test_a_photo_is_kept_with_the_job_without_where_it_was_taken(
    http: httpx.Client, job: int
) -> None:
    exif = Image.Exif()
    exif[0x8825] = {1: "N", 2: (51.0, 2.0, 3.0)}
    data = picture(exif=exif)
    made = http.post(
        f"/api/jobs/{job}/photos", files={"file": ("a.png", data)}, data={"caption": "Scratched."}
    )
    assert made.status_code == 201, made.text
    whole = http.get(f"/api/photos/{made.json()['sha256']}")
    assert whole.headers["content-type"] == "image/jpeg"
    with Image.open(io.BytesIO(whole.content)) as kept:
        assert (kept.size, dict(kept.getexif())) == ((640, 480), {})
    thumb = http.get(f"/api/photos/{made.json()['sha256']}/thumb").content
    assert len(thumb) < len(whole.content)
    assert view(http, job)["ledger"][0]["text"] == "Scratched."


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>x()</script></svg>", "SVG"),
        (b"MZ" + bytes(1000), "a program"),
        (picture()[:700], "cut short"),
        (picture() + b"<script>x()</script>", "more than a picture"),
    ],
)
def test_what_is_no_photo_is_refused_with_the_reason_and_nothing_is_kept(
    http: httpx.Client, job: int, data: bytes, said: str
) -> None:
    answer = http.post(f"/api/jobs/{job}/photos", files={"file": ("photo.jpg", data)})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["field"] == "file"
    assert said in answer.json()["detail"]
    assert view(http, job)["photos"] == []


def test_large_photos_at_once_do_not_fill_the_servers_memory(tmp_path: Path) -> None:
    server: Server = start_server(tmp_path)
    png, held = io.BytesIO(), io.BytesIO()
    large = Image.new("RGBA", (8_600, 5_800), (90, 120, 80, 90))
    large.save(png, "PNG", compress_level=1)
    large.convert("RGB").save(held, "JPEG", progressive=True, subsampling=0)
    too_large = picture() + bytes(40_000_000)
    with server.client(120) as http:
        job = new_job(http)

        def send(data: bytes) -> int:
            return http.post(f"/api/jobs/{job}/photos", files={"file": data}).status_code

        files = [png.getvalue(), too_large, held.getvalue()]
        with ThreadPoolExecutor(3) as pool:
            answers = list(pool.map(send, files))
        status = Path(f"/proc/{server.process.pid}/status").read_text()
    server.stop()
    assert answers == [201, 422, 422]
    most = int(re.search(r"VmHWM:\s+(\d+)", status).group(1)) / 1024  # type: ignore[union-attr]
    assert most < 500


def test_a_label_leads_to_its_job(http: httpx.Client, server: Server, job: int) -> None:
    drawn = http.get(f"/api/jobs/{job}/code.svg", params={"origin": server.base})
    assert drawn.headers["content-type"] == "image/svg+xml"
    expected = io.BytesIO()
    code = segno.make(f"{server.base}/jobs/{job}", error="m", micro=False)
    code.save(expected, kind="svg", border=2, omitsize=True)
    assert drawn.content == expected.getvalue()
    wrong = http.get(f"/api/jobs/{job}/code.svg", params={"origin": "javascript:x"})
    assert wrong.status_code == 422
    assert http.get("/api/jobs/99999/code.svg", params={"origin": server.base}).status_code == 404


def test_what_a_model_has_is_what_its_function_check_asks_for(http: httpx.Client) -> None:
    sheet = {
        "buttons": 3,
        "triggers": 1,
        "vibration": True,
        "clicks": {"left": 2},
        "items": ["Strap holds"],
    }
    plover = next(m for m in http.get("/api/models").json() if m["id"] == "plover")
    body = {k: v for k, v in plover.items() if k != "id"}
    made = http.post("/api/models", json=body | {"name": "Sanderling", "sheet": sheet}).json()
    job = new_job(http, model_id=made["id"])
    check = http.post(f"/api/jobs/{job}/checks", json={"kind": "take-in"}).json()
    answer = http.get(f"/api/checks/{check['id']}").json()["found"]
    assert [b["name"] for b in answer["buttons"]] == ["B1", "B2 (left click)", "B3"]
    assert [t["name"] for t in answer["triggers"]] == ["Trigger 1"]
    assert [i["name"] for i in answer["items"]] == ["Strap holds", "Vibration"]


# The history


def test_a_controllers_history_holds_every_visit_and_reading(http: httpx.Client) -> None:
    tag = "GS-9001"
    ids = []
    for _ in range(2):
        ids.append(new_job(http, tag=tag))
        http.post(
            f"/api/jobs/{ids[-1]}/recordings",
            files=recording_file(),
            data={"stick": "left", "again": "yes"},
        ).raise_for_status()
        http.post(f"/api/jobs/{ids[-1]}/close", json={"ended": "signed-off"}).raise_for_status()
    answer = http.get("/api/controllers", params={"tag": tag}).json()
    history = http.get(f"/api/controllers/{answer['controller']['id']}/history").json()
    assert [v["job"]["id"] for v in history["visits"]] == ids[::-1]
    left = next(s for s in history["sticks"] if s["stick"] == "left")
    assert [p["job_id"] for p in left["points"]] == ids
    needed = left["points"][0]["values"]["composite.dead_zone_needed"]
    take = http.get(f"/api/takes/{left['points'][0]['take_id']}").json()
    assert needed == take["values"]["composite.dead_zone_needed"]
    told = left["telling"]
    assert take["values"][told] > take["limits"][told]["limit"], "drawn first is what it came for"
    assert [s["telling"] for s in history["sticks"] if not s["points"]] == [None]
    assert http.get("/api/controllers/99999/history").status_code == 404
