"""Bands and classes: their people, their songs, what is given to them, what they wish for."""

from __future__ import annotations

import uuid

from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions import groups as act
from studio.actions.action import NotYours
from studio.actions.prints import printed_sheet
from studio.actions.sharing import make_link, revoke_link
from studio.api.access import own_user
from studio.api.downloads import MAYBE_LATER, being_made, saved_as
from studio.api.group_serializers import (
    AssignmentSerializer,
    ClassAssignmentSerializer,
    GiveSerializer,
    GroupSerializer,
    InvitationSerializer,
    InviteSerializer,
    JoinSerializer,
    LeadSerializer,
    MakeGroupSerializer,
    MakeWishSerializer,
    MineToPractiseSerializer,
    PutSongSerializer,
    RenameGroupSerializer,
    SettleWishSerializer,
    SongOrderSerializer,
    WishSerializer,
)
from studio.api.ranges import stored_file
from studio.api.sharing import link_values
from studio.api.sharing_serializers import LinkSerializer, MakeLinkSerializer
from studio.api.validation import validated_body
from studio.people import Group, GroupSong, Member, SeatRole, Wish
from studio.values.groups import (
    assignment_values,
    class_values,
    group_values,
    invitation_values,
    leads,
    mine_to_practise,
    wish_values,
)


def own_group(request: Request, group_id: int, *, leading: bool = False) -> Group:
    """The group, if the asker is in it; `leading`: and leads it. To others it does not exist."""
    user = own_user(request)
    group = Group.objects.filter(pk=group_id, members__user=user).first()
    if group is None:
        raise NotFound("You are in no such band or class.")
    if leading and not leads(group, user):
        raise NotYours(f"only those who lead the {group.kind} may do that")
    return group


class GroupsView(APIView):
    """The asker's bands and classes."""

    @extend_schema(responses=GroupSerializer(many=True), operation_id="groups_list")
    def get(self, request: Request) -> Response:
        """All that he is in."""
        user = own_user(request)
        mine = Group.objects.filter(members__user=user).select_related("owner")
        return Response([group_values(group, user) for group in mine])

    @extend_schema(request=MakeGroupSerializer, responses={201: GroupSerializer})
    def post(self, request: Request) -> Response:
        """Make one."""
        user = own_user(request)
        wish = validated_body(request, MakeGroupSerializer)
        return Response(group_values(act.make_group(user, **wish), user), status=201)


class GroupView(APIView):
    """One of them."""

    @extend_schema(responses=GroupSerializer, operation_id="groups_one")
    def get(self, request: Request, group_id: int) -> Response:
        """Its people and its songs."""
        return Response(group_values(own_group(request, group_id), own_user(request)))

    @extend_schema(request=RenameGroupSerializer, responses=GroupSerializer)
    def patch(self, request: Request, group_id: int) -> Response:
        """Rename it."""
        group = own_group(request, group_id, leading=True)
        group.name = validated_body(request, RenameGroupSerializer)["name"]
        group.save(update_fields=["name"])
        return Response(group_values(group, own_user(request)))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int) -> Response:
        """Remove it; songs and logs stay."""
        group = own_group(request, group_id, leading=True)
        if group.owner_id != own_user(request).pk:
            raise NotYours(f"only {group.owner.get_username()}, who made it, may remove it")
        act.remove_group(group)
        return Response(status=204)


class InvitationsView(APIView):
    """Invitations."""

    @extend_schema(request=InviteSerializer, responses={201: InvitationSerializer})
    def post(self, request: Request, group_id: int) -> Response:
        """Make one."""
        group = own_group(request, group_id, leading=True)
        made = act.invite(group, **validated_body(request, InviteSerializer))
        return Response(invitation_values(made), status=201)


class InvitationView(APIView):
    """One invitation."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, invitation_id: int) -> Response:
        """Take it back."""
        act.revoke_invitation(own_group(request, group_id, leading=True), invitation_id)
        return Response(status=204)


class JoinView(APIView):
    """Joining."""

    @extend_schema(request=JoinSerializer, responses=GroupSerializer)
    def post(self, request: Request) -> Response:
        """Join by an invitation."""
        user = own_user(request)
        group = act.join(user, validated_body(request, JoinSerializer)["token"])
        return Response(group_values(group, user))


class MemberView(APIView):
    """Somebody in a group."""

    @extend_schema(request=LeadSerializer, responses=GroupSerializer)
    def patch(self, request: Request, group_id: int, member_id: int) -> Response:
        """Let him lead it too, or no longer."""
        group = own_group(request, group_id, leading=True)
        member = _member(group, member_id)
        if member.user_id != group.owner_id:
            member.leads = validated_body(request, LeadSerializer)["leads"]
            member.save(update_fields=["leads"])
        return Response(group_values(group, own_user(request)))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, member_id: int) -> Response:
        """Leave it; those who lead it may send others away."""
        group = own_group(request, group_id)
        member = _member(group, member_id)
        if member.user_id != own_user(request).pk:
            own_group(request, group_id, leading=True)
        act.leave(group, member)
        return Response(status=204)


class GroupSongsView(APIView):
    """The songs of a group."""

    @extend_schema(request=PutSongSerializer, responses=GroupSerializer)
    def post(self, request: Request, group_id: int) -> Response:
        """Put one of the asker's own songs there."""
        group, user = own_group(request, group_id), own_user(request)
        wish = validated_body(request, PutSongSerializer)
        act.put_song(group, user, wish["song"], SeatRole(wish["role"]))
        return Response(group_values(group, user))

    @extend_schema(request=SongOrderSerializer, responses=GroupSerializer)
    def put(self, request: Request, group_id: int) -> Response:
        """Order them: it is a set list."""
        group = own_group(request, group_id, leading=True)
        act.order_songs(group, validated_body(request, SongOrderSerializer)["songs"])
        return Response(group_values(group, own_user(request)))


class GroupSongView(APIView):
    """One of them."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, song_id: uuid.UUID) -> Response:
        """Take it off: whose song it is, and those who lead, may."""
        user = own_user(request)
        put = GroupSong.objects.filter(group=group_id, song=song_id).select_related("song").first()
        # Whose song it is need not be in the group any more.
        if put is None or put.song.owner_id != user.pk:
            group = own_group(request, group_id)
            if put is None:
                raise NotFound("This song is not in the list.")
            own_group(request, group_id, leading=True)
        else:
            group = put.group
        act.take_song_off(group, put.song)
        return Response(status=204)


class GroupLinksView(APIView):
    """Links to the whole list: a band sheet for people without an account."""

    @extend_schema(responses=LinkSerializer(many=True), operation_id="groups_links")
    def get(self, request: Request, group_id: int) -> Response:
        """All of them."""
        group = own_group(request, group_id, leading=True)
        return Response([link_values(link) for link in group.links.all()])

    @extend_schema(request=MakeLinkSerializer, responses={201: LinkSerializer})
    def post(self, request: Request, group_id: int) -> Response:
        """Make one. Of the recordings only those of who made the group go along, if he says so."""
        group, user = own_group(request, group_id, leading=True), own_user(request)
        wish = validated_body(request, MakeLinkSerializer)
        if wish["with_audio"] and user.pk != group.owner_id:
            maker = group.owner.get_username()
            raise NotYours(f"only {maker}, who made the {group.kind}, may pass recordings on")
        return Response(link_values(make_link(group, **wish)), status=201)


class GroupLinkView(APIView):
    """One of them."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, link_id: uuid.UUID) -> Response:
        """Take it back."""
        revoke_link(own_group(request, group_id, leading=True), link_id)
        return Response(status=204)


class SheetView(APIView):
    """The band sheet on paper."""

    @extend_schema(responses={200: OpenApiTypes.BINARY, **MAYBE_LATER}, operation_id="groups_sheet")
    def get(self, request: Request, group_id: int) -> HttpResponseBase:
        """The road map of each song of the list, a page each, in one PDF; 202 until it is made."""
        group = own_group(request, group_id)
        path = printed_sheet(group)
        if path is None:
            return being_made()
        response = stored_file(request._request, path, "application/pdf")
        saved_as(response, group.name, ".pdf")
        return response


class GivenView(APIView):
    """What is given to a class."""

    @extend_schema(responses=ClassAssignmentSerializer(many=True), operation_id="groups_given")
    def get(self, request: Request, group_id: int) -> Response:
        """All of it, with how far each student is: for those who lead."""
        return Response(class_values(own_group(request, group_id, leading=True)))

    @extend_schema(request=GiveSerializer, responses={201: AssignmentSerializer})
    def post(self, request: Request, group_id: int) -> Response:
        """Give something to all of them, or to one."""
        group = own_group(request, group_id, leading=True)
        given = act.give(group, own_user(request), **validated_body(request, GiveSerializer))
        return Response(assignment_values(given), status=201)


class GivenOneView(APIView):
    """One thing that was given."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, assignment_id: int) -> Response:
        """Withdraw it; what was practised stays in each log."""
        act.withdraw(own_group(request, group_id, leading=True), assignment_id)
        return Response(status=204)


class ToPractiseView(APIView):
    """What the asker was given."""

    @extend_schema(responses=MineToPractiseSerializer(many=True), operation_id="to_practise")
    def get(self, request: Request) -> Response:
        """All of it, what is due first."""
        return Response(mine_to_practise(own_user(request)))


class WishesView(APIView):
    """What a group wishes for."""

    @extend_schema(responses=WishSerializer(many=True), operation_id="groups_wishes")
    def get(self, request: Request, group_id: int) -> Response:
        """The wish list."""
        return Response(wish_values(own_group(request, group_id), own_user(request)))

    @extend_schema(request=MakeWishSerializer, responses={201: WishSerializer(many=True)})
    def post(self, request: Request, group_id: int) -> Response:
        """Wish for a song."""
        group, user = own_group(request, group_id), own_user(request)
        act.wish(group, user, **validated_body(request, MakeWishSerializer))
        return Response(wish_values(group, user), status=201)


class WishView(APIView):
    """One wish."""

    @extend_schema(request=SettleWishSerializer, responses=WishSerializer(many=True))
    def patch(self, request: Request, group_id: int, wish_id: int) -> Response:
        """Say where it stands: for those who lead."""
        group, user = own_group(request, group_id, leading=True), own_user(request)
        act.settle_wish(
            _wish(group, wish_id), user, **validated_body(request, SettleWishSerializer)
        )
        return Response(wish_values(group, user))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, group_id: int, wish_id: int) -> Response:
        """Take it off: whoever wished for it, and those who lead, may."""
        group = own_group(request, group_id)
        wish = _wish(group, wish_id)
        if wish.wisher_id != own_user(request).pk:
            own_group(request, group_id, leading=True)
        wish.delete()
        return Response(status=204)


class VoteView(APIView):
    """The asker's vote."""

    @extend_schema(request=None, responses=WishSerializer(many=True))
    def put(self, request: Request, group_id: int, wish_id: int) -> Response:
        """Be for it: once, however often it is said."""
        return self._vote(request, group_id, wish_id, is_for=True)

    @extend_schema(request=None, responses=WishSerializer(many=True), operation_id="groups_unvote")
    def delete(self, request: Request, group_id: int, wish_id: int) -> Response:
        """Be for it no longer."""
        return self._vote(request, group_id, wish_id, is_for=False)

    def _vote(self, request: Request, group_id: int, wish_id: int, *, is_for: bool) -> Response:
        group, user = own_group(request, group_id), own_user(request)
        act.vote(_wish(group, wish_id), user, is_for=is_for)
        return Response(wish_values(group, user))


def _member(group: Group, member_id: int) -> Member:
    member = group.members.filter(pk=member_id).first()
    if member is None:
        raise NotFound("Nobody of that number is in it any more.")
    return member


def _wish(group: Group, wish_id: int) -> Wish:
    wish = group.wishes.filter(pk=wish_id).first()
    if wish is None:
        raise NotFound("There is no such wish any more.")
    return wish
