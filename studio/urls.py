"""Addresses: the API, below /api/. The page that draws everything else is served by the proxy."""

from django.urls import path, register_converter
from django.urls.converters import IntConverter

from studio.administration import office
from studio.api import (
    account,
    chart,
    comments,
    feel,
    fills,
    grid,
    grooves,
    groups,
    heard,
    operation,
    practice,
    session,
    sharing,
    shelf,
    songs,
    sources,
    uploads,
)


class BarConverter(IntConverter):
    """The number of a bar: what is longer is no address of ours."""

    regex = "[0-9]{1,5}"


class RowConverter(IntConverter):
    """The number of a row in the database."""

    regex = "[0-9]{1,18}"


register_converter(BarConverter, "bar")
register_converter(RowConverter, "row")

handler400 = "studio.api.problems.bad_request"
handler403 = "studio.api.problems.forbidden"
handler404 = "studio.api.problems.not_found"
handler500 = "studio.api.problems.failed"


SONG = "api/songs/<uuid:song_id>"
GROUP = "api/groups/<row:group_id>"
urlpatterns = [
    path("office/", office.urls),
    path("api/session", session.SessionView.as_view()),
    path("api/session/sign-in", session.SignInView.as_view()),
    path("api/session/sign-up", session.SignUpView.as_view()),
    path("api/session/email", account.ConfirmEmailView.as_view()),
    path("api/session/demo", session.DemoView.as_view()),
    path("api/account", account.AccountView.as_view()),
    path("api/account/remove", account.RemoveView.as_view()),
    path("api/account/password", account.PasswordView.as_view()),
    path("api/account/sessions", account.SessionsView.as_view()),
    path("api/account/export", account.ExportView.as_view()),
    path("api/session/forgot", account.ForgotView.as_view()),
    path("api/session/reset", account.ResetView.as_view()),
    path("api/mails", account.MailsView.as_view()),
    path("api/health/live", operation.LiveView.as_view()),
    path("api/health/ready", operation.ReadyView.as_view()),
    path("api/metrics", operation.MetricsView.as_view()),
    path("api/shelf", shelf.ShelfPageView.as_view()),
    path("api/songs", songs.ShelfView.as_view()),
    path(SONG, songs.SongView.as_view()),
    path(f"{SONG}/listening", songs.ListenView.as_view()),
    path(f"{SONG}/score", songs.ScoreView.as_view()),
    path(f"{SONG}/mine", songs.MineView.as_view()),
    path(f"{SONG}/clicks/<str:subdivision>", songs.ClicksView.as_view()),
    path(f"{SONG}/edits", songs.EditsView.as_view()),
    path(f"{SONG}/undo", songs.UndoView.as_view()),
    path(f"{SONG}/redo", songs.RedoView.as_view()),
    path(f"{SONG}/chart", chart.ChartView.as_view()),
    path(f"{SONG}/cues", chart.CuesView.as_view()),
    path(f"{SONG}/part-file", chart.PartFileView.as_view()),
    path(f"{SONG}/bundle", chart.BundleView.as_view()),
    path(f"{SONG}/parts", chart.PartsView.as_view()),
    path(f"{SONG}/files/<str:name>", chart.FileView.as_view()),
    path(f"{SONG}/audio", songs.AudioView.as_view()),
    path(f"{SONG}/audio/<str:part>", songs.PartView.as_view()),
    path(f"{SONG}/peaks", songs.PeaksView.as_view()),
    path(f"{SONG}/grooves", grooves.GroovesView.as_view()),
    path(f"{SONG}/gestures", grooves.GesturesView.as_view()),
    path(f"{SONG}/evidence", grooves.ShadesView.as_view()),
    path(f"{SONG}/evidence/<bar:bar>", grooves.EvidenceView.as_view()),
    path(f"{SONG}/bars/<bar:bar>/staff", grooves.BarStaffView.as_view()),
    path(f"{SONG}/saying", grooves.SayingView.as_view()),
    path(f"{SONG}/relisten", grooves.RelistenView.as_view()),
    path(f"{SONG}/heard-again", heard.HeardAgainView.as_view()),
    path(f"{SONG}/history/<bar:bar>", grooves.HistoryView.as_view()),
    path(f"{SONG}/kin/<bar:bar>", grooves.KinView.as_view()),
    path(f"{SONG}/kin/<bar:bar>/chain", grooves.ChainView.as_view()),
    path(f"{SONG}/picture/<bar:bar>", grooves.PictureView.as_view()),
    path(f"{SONG}/sources", sources.SourcesView.as_view()),
    path(f"{SONG}/sources/<row:source_id>", sources.SourceView.as_view()),
    path(f"{SONG}/sources/<row:source_id>/line-up", sources.LineUpView.as_view()),
    path(f"{SONG}/sources/<row:source_id>/follow", sources.FollowView.as_view()),
    path(f"{SONG}/sources/<row:source_id>/audio", sources.SourceAudioView.as_view()),
    path(f"{SONG}/reading", grid.ReadingView.as_view()),
    path(f"{SONG}/taps", grid.TapsView.as_view()),
    path(f"{SONG}/tempo", grid.TempoView.as_view()),
    path(f"{SONG}/bar-line", grid.BarLineView.as_view()),
    path(f"{SONG}/downbeats/shift", grid.ShiftView.as_view()),
    path(f"{SONG}/bars/even-out", grid.EvenOutView.as_view()),
    path(f"{SONG}/beat-notation", grid.BeatNotationView.as_view()),
    path(f"{SONG}/division", grid.DivisionView.as_view()),
    path(f"{SONG}/confirm", grid.ConfirmView.as_view()),
    path(f"{SONG}/form", grid.FormView.as_view()),
    path(f"{SONG}/fills", fills.FillsView.as_view()),
    path(f"{SONG}/fills/<bar:bar>/exercises", fills.ExercisesView.as_view()),
    path(f"{SONG}/fills/<bar:bar>/staff", fills.StaffView.as_view()),
    path(f"{SONG}/fills/<bar:bar>/elsewhere", fills.ElsewhereView.as_view()),
    path(f"{SONG}/feel", feel.FeelView.as_view()),
    path(f"{SONG}/practice", practice.PracticeView.as_view()),
    path(f"{SONG}/practice/plans/<slug:target>", practice.PlanView.as_view()),
    path(f"{SONG}/practice/variation/<slug:target>", practice.VariationView.as_view()),
    path(f"{SONG}/practice/log", practice.LogView.as_view()),
    path(f"{SONG}/practice/log.csv", practice.LogFileView.as_view()),
    path(f"{SONG}/practice/played", practice.PlayedView.as_view()),
    path(f"{SONG}/practice/stand-in", practice.StandInView.as_view()),
    path(f"{SONG}/practice/mixes", practice.MixesView.as_view()),
    path(f"{SONG}/practice/mixes/cancel", practice.MixCancelView.as_view()),
    path(f"{SONG}/practice/mixes/<slug:name>", practice.MixFileView.as_view()),
    path(f"{SONG}/people", sharing.PeopleView.as_view()),
    path(f"{SONG}/people/<row:seat_id>", sharing.SeatView.as_view()),
    path(f"{SONG}/links", sharing.LinksView.as_view()),
    path(f"{SONG}/links/<uuid:link_id>", sharing.LinkView.as_view()),
    path(f"{SONG}/editions", sharing.EditionsView.as_view()),
    path(f"{SONG}/pages.zip", sharing.StaticView.as_view()),
    path(f"{SONG}/tags", shelf.TagsView.as_view()),
    path(f"{SONG}/comments", comments.CommentsView.as_view()),
    path(f"{SONG}/comments/<row:comment_id>", comments.CommentView.as_view()),
    path(f"{SONG}/here", comments.HereView.as_view()),
    path("api/groups", groups.GroupsView.as_view()),
    path("api/groups/join", groups.JoinView.as_view()),
    path(GROUP, groups.GroupView.as_view()),
    path(f"{GROUP}/invitations", groups.InvitationsView.as_view()),
    path(f"{GROUP}/invitations/<row:invitation_id>", groups.InvitationView.as_view()),
    path(f"{GROUP}/members/<row:member_id>", groups.MemberView.as_view()),
    path(f"{GROUP}/songs", groups.GroupSongsView.as_view()),
    path(f"{GROUP}/songs/<uuid:song_id>", groups.GroupSongView.as_view()),
    path(f"{GROUP}/links", groups.GroupLinksView.as_view()),
    path(f"{GROUP}/links/<uuid:link_id>", groups.GroupLinkView.as_view()),
    path(f"{GROUP}/sheet.pdf", groups.SheetView.as_view()),
    path(f"{GROUP}/given", groups.GivenView.as_view()),
    path(f"{GROUP}/given/<row:assignment_id>", groups.GivenOneView.as_view()),
    path(f"{GROUP}/wishes", groups.WishesView.as_view()),
    path(f"{GROUP}/wishes/<row:wish_id>", groups.WishView.as_view()),
    path(f"{GROUP}/wishes/<row:wish_id>/vote", groups.VoteView.as_view()),
    path("api/to-practise", groups.ToPractiseView.as_view()),
    path("api/shared", sharing.SharedView.as_view()),
    path("api/latency", practice.LatencyView.as_view()),
    path(f"{SONG}/practice-list", fills.PracticeListView.as_view()),
    path(f"{SONG}/practice-list/<row:item_id>", fills.PracticeItemView.as_view()),
    path(f"{SONG}/kit", fills.SongKitView.as_view()),
    path(f"{SONG}/hands", fills.HandsView.as_view()),
    path(f"{SONG}/rhythm-name", grooves.NameRhythmView.as_view()),
    path("api/rhythms", grooves.RhythmsView.as_view()),
    path("api/rhythms/<row:rhythm_id>", grooves.RhythmView.as_view()),
    path("api/kits", fills.KitsView.as_view()),
    path("api/kits/<row:kit_id>", fills.KitView.as_view()),
    path("api/uploads/allowed", uploads.AllowedView.as_view()),
]
