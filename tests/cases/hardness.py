"""Grooves and fills in the order in which a teacher gives them, easy ones first.

As in `figures`: a token a place, drums struck together stand together (hK), `<` is a ghost.
"""

ROCK8 = "hK h hS h hK h hS h"

GROOVES = (
    ("quarters and kick", 1, "hK hS hK hS", 80),
    ("first rock beat", 2, ROCK8, 70),
    ("first rock beat, faster", 2, ROCK8, 110),
    ("two kicks", 2, "hK h hS h hK hK hS h", 90),
    ("kick on the and", 2, "hK hK hS h h hK hS h", 100),
    ("four on the floor, open hat", 2, "hK o hSK o hK o hSK o", 118),
    ("shuffle", 3, "hK . h hS . h hK . h hS . h", 110),
    ("double-time punk", 2, "hK S hK S hK S hK S", 200),
    ("eighths with a kick between", 4, "hK . h . hS . h K hK . h . hS . h .", 85),
    ("eighths, two kicks between", 4, "hK . h K hS . h K h K h . hS . h .", 90),
    ("sixteenths, one hand", 4, "hK h h h hS h h h hK h h h hS h h h", 75),
    ("two-handed sixteenths", 4, "hK h h h S h h h hK h hK h S h h h", 105),
    ("eighths with two ghosts", 4, "hK . h <S hS . h <S hK . h . hS . h .", 90),
    ("shuffle with ghosts", 3, "hK <S h hS <S h hK <S h hS <S h", 105),
    ("linear funk", 4, "hK . hK . hS <S h K h <S hK . hS . h K", 96),
    ("funk with ghosts", 4, "hK <S h <S hS <S h K h <S hK <S hS <S h <S", 98),
    ("half-time shuffle", 3, "hK <S h h <S h hS <S h h <S hK", 95),
    ("fast samba", 4, "rK . r rK rK . r rK rK . r rK rK . r rK", 115),
    ("funk, fast", 4, "hK <S hK <S hS <S h K h <S hK <S hS <S hK <S", 116),
    ("double kick under eighths", 4, "hK K hK K hSK K hK K hK K hK K hSK K hK K", 170),
)

FILLS = (
    ("four quarters", 1, "S S S S", 80),
    ("eighths on the snare", 2, "S S S S S S S S", 80),
    ("eighths down the kit", 2, "S S H H M M F F", 90),
    ("a beat of sixteenths", 4, "S S S S", 80),
    ("two beats of sixteenths", 4, "S S S S S S S S", 90),
    ("two beats, snare and floor", 4, "S S S S F F F F", 95),
    ("round the kit by fours", 4, "S S S S H H H H M M M M F F F F", 90),
    ("round the kit by fours, faster", 4, "S S S S H H H H M M M M F F F F", 120),
    ("by twos", 4, "S S H H M M F F S S H H M M F F", 105),
    ("3-3-2", 4, "S S S H H H F F S S S H H H F F", 110),
    ("triplets by drum", 3, "S S S H H H M M M F F F", 130),
    ("hand hand foot", 3, "S S K H H K M M K F F K", 120),
    ("hand hand foot foot", 4, "S S K K H H K K M M K K F F K K", 115),
    ("flam accents", 3, "fS S S fS S S fS S S fS S S", 120),
    ("sextuplets", 6, "S S S S S S H H H H H H", 90),
    ("paradiddles, floor and snare", 4, "F S F F S F S S F S F F S F S S", 115),
    ("sextuplets round the kit", 6, "S S S H H H M M M F F F S S S H H H M M M F F F", 95),
    ("quads", 6, "S S S S K K H H H H K K M M M M K K F F F F K K", 100),
    ("thirty-seconds", 8, "S S S S H H H H M M M M F F F F", 88),
    ("thirty-seconds with feet", 8, "S S K K H H K K M M K K F F K K", 95),
)
