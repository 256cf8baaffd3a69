"""Sentences of the Cut lines station."""

LINES = {
    "impossible_line": "{name} cannot be cut as it is set. {why} {act}",
    "loose_pieces": "{name} comes apart into {count} stickers.",
    "loose_pieces.joining": "{name} comes apart into {count} stickers. They join at a border of {border}.",
    "not_searched": "{name}'s line is too long to search for narrow places.",
    "neck": "{name} has a neck of {width}: it tears when the piece is peeled.{more}",
    "slot": "{name} has a slot of {width}: the strip between tears or lifts.{more}",
    "narrow.more": " {count} more {count?is|are} under {limit}.",
    "small_loop": "A loop of {name} is {across} across: the knife tears a loop under {limit} instead of closing it.",
    "turns": "{name}'s line turns sharply {turns} times in {over}. Rounder turns cut faster.",
    "turns.slight": "{name}'s line turns sharply {turns} times in {over}. It is too slight to be rounded: a "
    "larger piece cuts better.",
    "holes_filled": "{count} {count?hole was|holes were} filled: less than {limit} across, a blade of "
    "{offset} offset cannot close {count?it|them}.",
    "crumbs": "{count} {count?crumb is|crumbs are} left out of {name}: under {limit} across, the knife tears "
    "{count?it|them}. A narrower inward border keeps more.",
    "close_lines": "Two lines of {name} run {apart} apart: under {limit} the strip between them lifts with "
    "the knife.",
    "close_lines.cross": "Two lines of {name} cross: under {limit} the strip between them lifts with the knife.",
    "hold": "{name}: {ties} ties of {tie} hold {share} of the outline, about {force}: {verdict}.",
    "hang_edge": "The hole of {name} is {edge} from the edge. Under {limit} it tears out.",
    "hang_art": "The hole of {name} goes through the art.",
    "edit_missed.shape": "A hand-drawn shape on {name} no longer meets its line, because the outline has changed.",
    "edit_missed.node": "A node edit of {name} is ignored: the line has moved away from it, or would cross itself.",
    "into_art": "The hand-edited line of {name} runs into the art: {area} would be cut off.",
    "bleed.wanted": "Colour touches the cut line of {name}, so a slip shows bare paper. A bleed of {bleed} "
    "prevents it.",
    "bleed.enough": "{name} has a bleed of {bleed}.",
    "bleed.pointless": "{name} has a white border: bleed only makes the border narrower.",
}
