"""Addresses: the API below /api/, and the one page that draws everything else."""

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.urls import path, re_path

from studio.api import grid, grooves, session, songs, sources


def page(request: HttpRequest) -> HttpResponse:
    """The application's page; the front end reads the address and draws the rest."""
    if request.path.startswith(("/api/", "/static/")):
        raise Http404
    index = settings.STATIC_ROOT / "index.html"
    if not index.exists():
        return HttpResponse("The front end has not been built: run ./orchesis start", status=503)
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


SONG = "api/songs/<uuid:song_id>"
urlpatterns = [
    path("api/session", session.SessionView.as_view()),
    path("api/session/sign-in", session.SignInView.as_view()),
    path("api/session/sign-up", session.SignUpView.as_view()),
    path("api/session/demo", session.DemoView.as_view()),
    path("api/songs", songs.ShelfView.as_view()),
    path(SONG, songs.SongView.as_view()),
    path(f"{SONG}/listening", songs.ListenView.as_view()),
    path(f"{SONG}/score", songs.ScoreView.as_view()),
    path(f"{SONG}/clicks/<str:subdivision>", songs.ClicksView.as_view()),
    path(f"{SONG}/edits", songs.EditsView.as_view()),
    path(f"{SONG}/undo", songs.UndoView.as_view()),
    path(f"{SONG}/redo", songs.RedoView.as_view()),
    path(f"{SONG}/engraving", songs.EngravingView.as_view()),
    path(f"{SONG}/files/<str:name>", songs.FileView.as_view()),
    path(f"{SONG}/audio", songs.AudioView.as_view()),
    path(f"{SONG}/audio/<str:part>", songs.PartView.as_view()),
    path(f"{SONG}/peaks", songs.PeaksView.as_view()),
    path(f"{SONG}/grooves", grooves.GroovesView.as_view()),
    path(f"{SONG}/gestures", grooves.GesturesView.as_view()),
    path(f"{SONG}/evidence", grooves.ShadesView.as_view()),
    path(f"{SONG}/evidence/<int:bar>", grooves.EvidenceView.as_view()),
    path(f"{SONG}/saying", grooves.SayingView.as_view()),
    path(f"{SONG}/relisten", grooves.RelistenView.as_view()),
    path(f"{SONG}/history/<int:bar>", grooves.HistoryView.as_view()),
    path(f"{SONG}/kin/<int:bar>", grooves.KinView.as_view()),
    path(f"{SONG}/kin/<int:bar>/chain", grooves.ChainView.as_view()),
    path(f"{SONG}/picture/<int:bar>", grooves.PictureView.as_view()),
    path(f"{SONG}/sources", sources.SourcesView.as_view()),
    path(f"{SONG}/sources/<int:source_id>", sources.SourceView.as_view()),
    path(f"{SONG}/sources/<int:source_id>/follow", sources.FollowView.as_view()),
    path(f"{SONG}/sources/<int:source_id>/audio", sources.SourceAudioView.as_view()),
    path(f"{SONG}/reading", grid.ReadingView.as_view()),
    path(f"{SONG}/taps", grid.TapsView.as_view()),
    path(f"{SONG}/tempo", grid.TempoView.as_view()),
    path(f"{SONG}/bar-line", grid.BarLineView.as_view()),
    path(f"{SONG}/confirm", grid.ConfirmView.as_view()),
    path(f"{SONG}/form", grid.FormView.as_view()),
    re_path(r"^", page),
]
