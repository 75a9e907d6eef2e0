"""What comes into a survey and leaves it: kept surveys, files, pasted pins, photographs."""

import io

import pytest
from asked import jpeg
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from loadstar.core.edits import RemoveElement
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records.models import KeptSurvey, Photo
from loadstar.web.records.photos import reencoded

# -- reuse --------------------------------------------------------------------------------------------------------

def test_a_kept_survey_is_taken_over_believed(survey):
    assert survey("keep", family="").status_code == 422
    survey("keep", family="Marsh tourer", years="2019-2023", differences="alarm plug only from 2021")
    kept = KeptSurvey.objects.get()
    person = survey.shop.technician
    row = store.begin(survey.shop.workshop, person, store.empty(survey.shop.workshop, "next machine"))
    base = f"/w/{survey.shop.workshop.slug}/p/{row.pk}/"
    assert "Marsh tourer" in survey.client.get(base + "survey/?view=reuse").content.decode()
    assert survey.client.post(base + "survey/take/", {"base": row.head, "kept": kept.pk}).status_code == 302
    plan = store.load(PlanHead.objects.get(pk=row.pk)).plan
    assert len(plan.plugs) == 4 and {p.standing for p in (*plan.places, *plan.plugs)} == {"believed"}
    assert "facts were copied" in survey.client.get(base + "survey/?view=reuse").content.decode()


def test_survey_files_go_round(survey):
    exported = survey.client.get(survey.shop.url("survey.json"))
    assert exported["Content-Disposition"].startswith("attachment")
    row = store.begin(survey.shop.workshop, survey.shop.technician, store.empty(survey.shop.workshop, "copy"))
    base = f"/w/{survey.shop.workshop.slug}/p/{row.pk}/"
    file = SimpleUploadedFile("s.json", exported.content)
    assert survey.client.post(base + "survey/file/", {"base": row.head, "file": file}).status_code == 302
    assert len(store.load(PlanHead.objects.get(pk=row.pk)).plan.plugs) == 4
    for content, words in ((b"{", "not whole JSON"), (b"{}", "This is no survey"),
                           (b'{"format":"loadstar-survey","version":9}', "version 9"),
                           (b" " * (1024 * 1024 + 1), "at most 1 MB")):
        answer = survey("file", file=SimpleUploadedFile("s.json", content))
        assert answer.status_code == 422 and words in answer.content.decode()
    assert survey("file").status_code == 422


def test_pins_pasted_and_as_csv(survey):
    table = ("connector\tpin\tlive\trated_a\tcolour\naccessory plug\t1\tkey\t7,5\tRD/WH\n"
             "Heated-gear plug\t1\tengine\t8 A\t\n")
    assert survey("pins", pasted=table).status_code == 302
    plan = survey.plan()
    assert (plan.pins("AP1")[0].function, plan.pins("AP1")[0].rated_a, plan.pins("AP2")[0].live) == ("feed", 7.5,
                                                                                                     "engine")
    csv = survey.client.get(survey.shop.url("survey.csv")).content
    assert survey("pins", file=SimpleUploadedFile("p.csv", csv)).status_code == 302  # its own export is read again
    again = survey.plan()
    assert [p.model_dump() for p in again.parts] == [p.model_dump() for p in plan.parts]


def test_a_bad_table_takes_nothing(survey):
    head = survey.shop.row.head
    for table, words in (("connector,pin\nno such plug,1\n", "no connector no such plug"),
                         ("pin,live\n1,key\n", "has no column connector"),
                         ("", "The table is empty"),
                         ("connector,pin\n", "no pins under its first line"),
                         ("connector,pin\naccessory plug,1\naccessory plug,two\n", "Line 3: pin must be a number"),
                         ("connector,pin,rated_a\naccessory plug,1,=2+3\n", "Line 2: rated_a holds a formula"),
                         ("connector,pin,live\naccessory plug,1,sometimes\n",
                          "live must be one of always, key, engine, brake"),
                         ("connector,pin\naccessory plug,1\naccessory plug,1\n", "stands there twice"),
                         ("connector,pin,rated_a\naccessory plug,1,-5\n", "more than 0"),
                         ("connector,pin\n" + "".join(f"accessory plug,{n}\n" for n in range(1, 71)), "from 1 to 60")):
        answer = survey("pins", pasted=table)
        assert answer.status_code == 422 and words in answer.content.decode(), words
        if table:
            assert table.split("\n")[1].split(",")[0] in answer.content.decode()  # what was pasted is still there
    survey.shop.row.refresh_from_db()
    assert survey.shop.row.head == head


# -- photographs --------------------------------------------------------------------------------------------------

def test_a_photograph_is_made_smaller_and_says_nothing_of_the_camera(survey):
    exif = Image.Exif()
    exif[0x0110], exif[0x0132], exif[0x0112] = "Camera 9", "2026:03:14 10:00:00", 6
    exif.get_ifd(0x8825)[1] = "N"
    data = jpeg((4000, 3000), exif=exif)
    assert survey("photo", element="AP1", caption="from the seat",
                  photo=SimpleUploadedFile("x.jpg", data, "image/jpeg")).status_code == 302
    photo = Photo.objects.get()
    assert (photo.width, photo.height) == (1200, 1600)  # turned upright
    answer = survey.client.get(survey.shop.url(f"photo/{photo.pk}.jpg"))
    assert answer["Content-Type"] == "image/jpeg" and answer["Cache-Control"].startswith("private")
    shown = Image.open(io.BytesIO(answer.content))
    assert not shown.getexif() and not {"exif", "comment", "icc_profile", "xmp"} & set(shown.info)
    assert b"Camera 9" not in answer.content
    survey("photo", element="AP1", away=photo.pk)
    assert not Photo.objects.exists()


def test_photographs_of_a_connector_taken_out_are_kept_in_sight_and_can_be_taken_away(survey):
    survey("photo", element="AP1", caption="from the seat", photo=SimpleUploadedFile("x.jpg", jpeg(), "image/jpeg"))
    photo = Photo.objects.get()
    page = survey.shop.url("survey/?view=plugs")
    assert "Photographs of what was taken out" not in survey.client.get(page).content.decode()
    row = PlanHead.objects.get(pk=survey.shop.row.pk)
    store.edit(row, survey.shop.technician, row.head, RemoveElement(id="AP1"))
    assert "Photographs of what was taken out" in survey.client.get(page).content.decode()
    assert survey("photo", element="AP1", away=photo.pk).status_code == 302
    assert not Photo.objects.exists()


@pytest.mark.parametrize(("content", "words"), [
    (b"this is a text", "no photograph that can be read"), (b"", "file"),
    (jpeg()[:300], "no photograph that can be read"),
    (b"GIF89a" + b"\0" * 40, "no photograph that can be read")])
def test_what_is_no_photograph(survey, content, words):
    answer = survey("photo", "?sel=AP1", element="AP1", caption="from above",
                    photo=SimpleUploadedFile("x.jpg", content, "image/jpeg"))
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert 'value="from above"' in answer.content.decode()
    assert not Photo.objects.exists()


def test_a_photograph_too_large(survey):
    answer = survey("photo", element="AP1",
                    photo=SimpleUploadedFile("x.jpg", jpeg() + b"\0" * (40 * 1024 * 1024), "image/jpeg"))
    assert answer.status_code == 422 and "has 42 MB; up to 12 MB" in answer.content.decode()
    wide = io.BytesIO()
    Image.new("1", (12000, 9000)).save(wide, "PNG")
    answer = survey("photo", element="AP1", photo=SimpleUploadedFile("x.png", wide.getvalue(), "image/png"))
    assert answer.status_code == 422
    assert survey("photo", element="ZZ9", photo=SimpleUploadedFile("x.jpg", jpeg())).status_code == 404
    assert reencoded(jpeg((300, 200)))[1:] == (300, 200)
