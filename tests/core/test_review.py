"""Where to listen before the gig: misfits among like bars, and doubts, by what they would cost."""

from dataclasses import replace
from fractions import Fraction

from orchesis.edits.review import Why, cost_of, review_places
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Fill
from tests.composing import ROCK, song

KICK, SNARE, HAT, CRASH = (
    Instrument.KICK,
    Instrument.SNARE,
    Instrument.HIHAT_CLOSED,
    Instrument.CRASH,
)
UNDER_BACKBEAT = {**ROCK, KICK: "x...x...x......."}
WITHOUT = {**ROCK, KICK: "x..............."}


def test_one_even_groove_has_nothing_to_listen_to():
    assert review_places(song([ROCK] * 12)) == ()


def test_a_kick_under_the_backbeat_in_two_bars_of_twelve_is_found():
    (place,) = review_places(song([ROCK] * 10 + [UNDER_BACKBEAT] * 2))
    assert place.why is Why.EXTRA
    assert (place.instrument, place.bars, place.like_bars) == (KICK, (11, 12), 12)
    assert place.words == "Kick on 2, only in bars 11 and 12 of 12 alike"


def test_what_every_third_bar_plays_is_a_part_of_the_groove():
    assert review_places(song([ROCK, ROCK, UNDER_BACKBEAT] * 4)) == ()


def test_a_note_that_one_bar_lacks_is_proposed_where_it_would_stand():
    (place,) = review_places(song([ROCK] * 6 + [WITHOUT] + [ROCK] * 5))
    assert place.why is Why.MISSING
    (hit,) = place.hits
    assert (hit.bar, hit.position, hit.instrument) == (7, Fraction(1, 2), KICK)
    assert hit.status is Status.INFERRED
    assert hit.time == song([ROCK] * 7).bars[6].time_at(Fraction(1, 2))


def test_what_is_played_in_a_fill_or_as_a_crash_on_the_one_is_no_misfit():
    filled = {HAT: "x.x.x.x.x.......", SNARE: "....X.......XxXx", KICK: "x.......x......."}
    crashed = {**ROCK, CRASH: "X..............."}
    piece = song([crashed] + [ROCK] * 6 + [filled])
    last = piece.bars[-1]
    fill = Fill(last.time_at(0.5), last.end, last.number, at=Fraction(1, 2))
    assert review_places(replace(piece, fills=(fill,))) == ()


def test_what_somebody_settled_is_not_asked_about_again():
    piece = song([ROCK] * 10 + [UNDER_BACKBEAT])
    settled = piece.with_hits(
        replace(hit, settled=True) if hit.bar == 11 else hit for hit in piece.hits
    )
    assert review_places(settled) == ()
    left_out = song([ROCK] * 6 + [WITHOUT] + [ROCK] * 5)
    kick = next(hit for hit in left_out.hits if hit.place == (1, Fraction(1, 2), KICK))
    gone = replace(kick, bar=7, status=Status.LEFT_OUT, settled=True)
    assert review_places(left_out.with_hits([*left_out.hits, gone])) == ()


def test_doubts_come_in_the_order_of_what_they_would_cost():
    def faint(hit):
        doubted = hit.bar == 3 and hit.position == Fraction(1, 4)
        doubted = doubted and hit.instrument in (SNARE, HAT)
        return replace(hit, status=Status.DOUBTFUL, confidence=0.6) if doubted else hit

    piece = song([ROCK] * 8)
    first, second = review_places(piece.with_hits(map(faint, piece.hits)))
    assert (first.instrument, second.instrument) == (SNARE, HAT)
    assert first.cost > second.cost > 0
    assert first.words == "Snare on 2 in bar 3: heard faintly"


def test_a_ghost_costs_less_than_a_backbeat():
    (snare,) = song([{SNARE: "X..............."}]).hits
    assert cost_of(replace(snare, ghost=True)) < cost_of(snare)
