"""Every address. The workshop is in each one that shows its things."""

from django.urls import path

from .bench import begin, waiting
from .bench import history as past
from .bench import views as plans
from .bench.kept import kept_here
from .frame import tour
from .health import health
from .jobs.views import job
from .papers import views as papers
from .pocket import views as answers
from .stations import views as stations
from .stations.ends import shelf
from .stations.rules.workshop import workshop_rules
from .stations.survey.acts import photo
from .workshop import account, members, signs, telephones
from .workshop import views as workshop

PLAN = "w/<slug:workshop>/p/<int:plan>/"

urlpatterns = [
    path("health/", health, name="health"),
    path("", workshop.home, name="home"),
    path("setup/", workshop.setup, name="setup"),
    path("sign-in/", signs.sign_in, name="sign-in"),
    path("sign-in/code/", signs.second_step, name="second-step"),
    path("sign-out/", signs.sign_out, name="sign-out"),
    path("enter-demo/", signs.enter_demo, name="enter-demo"),
    path("new-password/<str:code>/", signs.reset, name="reset"),
    path("telephone/", telephones.telephone, name="telephone"),
    path("pair/<str:code>/", telephones.pair, name="pair"),
    path("loadstar-root.crt", telephones.root_certificate, name="root-certificate"),
    path("workshops/", workshop.workshops, name="workshops"),
    path("join/<str:token>/", workshop.join, name="join"),
    path("me/", account.preferences, name="preferences"),
    path("me/password/", account.password, name="password"),
    path("me/sessions/", account.end_session, name="end-session"),
    path("me/second-factor/", account.second_factor, name="second-factor"),
    path("me/no-second-factor/", account.no_second_factor, name="no-second-factor"),
    path("w/<slug:workshop>/", plans.bench, name="bench"),
    path("w/<slug:workshop>/begin/", begin.begin, name="begin"),
    path("w/<slug:workshop>/tour/", tour.tour, name="tour"),
    path("w/<slug:workshop>/members/", members.members, name="members"),
    path("w/<slug:workshop>/members/<slug:what>/", members.change, name="member-change"),
    path("w/<slug:workshop>/trail/", members.trail, name="trail"),
    path("w/<slug:workshop>/shelf/", shelf.shelf, name="shelf"),
    path("w/<slug:workshop>/shelf/take-in/", shelf.shelf_file, name="shelf-file"),
    path("w/<slug:workshop>/shelf/take-off/", shelf.shelf_take_off, name="shelf-off"),
    path("w/<slug:workshop>/shelf.csv", shelf.shelf_csv, name="shelf-csv"),
    path("w/<slug:workshop>/rules/", workshop_rules, name="workshop-rules"),
    path("w/<slug:workshop>/pocket/", answers.pocket, name="pocket"),
    path("w/<slug:workshop>/pocket/keep/", answers.keep, name="pocket-keep"),
    path("w/<slug:workshop>/waiting/", waiting.waiting, name="waiting"),
    path("w/<slug:workshop>/archive/", past.archive, name="archive"),
    path("w/<slug:workshop>/import/", plans.import_plan, name="import"),
    path("w/<slug:workshop>/jobs/<uuid:job>/", job, name="job"),
    path(PLAN, plans.open_plan, name="plan"),
    path(PLAN + "edit/", plans.edit, name="edit"),
    path(PLAN + "undo/", plans.take_back_or_put_back, {"again": False}, name="undo"),
    path(PLAN + "redo/", plans.take_back_or_put_back, {"again": True}, name="redo"),
    path(PLAN + "history/", past.history, name="history"),
    path(PLAN + "history/compared/", past.compared, name="compared"),
    path(PLAN + "history/restore/", past.restore, name="restore"),
    path(PLAN + "archive/", past.put_away, {"back": False}, name="put-away"),
    path(PLAN + "unarchive/", past.put_away, {"back": True}, name="take-back"),
    path(PLAN + "find/", plans.find, name="find"),
    path(PLAN + "working/", plans.working, name="working"),
    path(PLAN + "bands/", plans.bands, name="bands"),
    path(PLAN + "kept-here/", kept_here, name="kept-here"),
    path(PLAN + "findings/", plans.findings, name="findings"),
    path(PLAN + "plan.json", papers.export_json, name="export"),
    path(PLAN + "survey.json", papers.survey_json, name="survey-json"),
    path(PLAN + "survey.csv", papers.survey_csv, name="survey-csv"),
    path(PLAN + "pin-maps.pdf", papers.pin_maps, name="pin-maps"),
    path(PLAN + "board.pdf", papers.board_pdf, name="board-pdf"),
    path(PLAN + "board.dxf", papers.board_dxf, name="board-dxf"),
    path(PLAN + "board.svg", papers.board_svg, name="board-svg"),
    path(PLAN + "crimp-card.pdf", papers.crimp_card, name="crimp-card"),
    path(PLAN + "labels.pdf", papers.labels, name="labels"),
    path(PLAN + "work-sheet.pdf", papers.work_sheet, name="work-sheet"),
    path(PLAN + "machine.zip", papers.machine_zip, name="machine-zip"),
    path(PLAN + "papers.pdf", papers.machine, name="papers"),
    path(PLAN + "cut.csv", papers.cut_csv, name="cut-csv"),
    path(PLAN + "order.csv", papers.order_csv, name="order-csv"),
    path(PLAN + "photo/<int:number>.jpg", photo, name="photo"),
    path(PLAN + "card/<str:load>.pdf", papers.card, name="card"),
    path(PLAN + "<slug:station>/", stations.station, name="station"),
    path(PLAN + "<slug:station>/<slug:what>/", stations.act, name="act"),
]

handler400 = "loadstar.web.errors.bad_request"
handler403 = "loadstar.web.errors.refused"
handler404 = "loadstar.web.errors.not_found"
handler500 = "loadstar.web.errors.failed"
