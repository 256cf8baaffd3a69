"""Sentences of the Sheet station."""

SHEET = {
    "too_large": "{name} with its lines is {size} and fits nowhere on {stock} clear of the marks.",
    "too_many": "{missing} of {name} are left out: one job holds at most {sheets} sheets.",
    "too_many.none": "No sheet is left for {name}: one job holds at most {sheets} sheets. Make fewer of the "
    "other pieces, or a job of its own for it.",
    "not_shared": "{name} is not cut through as a plain box: its line is not shared, and it would touch its "
    "neighbour's.",
    "card_full": "{missing} of {name} find no place on the card. Make the card larger or the pieces smaller.",
    "card_large": "A card of {size} fits nowhere on {stock}.",
    "card_heading": "The heading does not fit {width}, or the font lacks a letter of it. Make it shorter.",
    "nest_waiting": "The nest is not searched yet; rows and columns stand in its place until it is.",
    "nest_cut_short": "The search for this nest was cut short. Under Stock and filling, a full search may fit more.",
    "nest_cut_short.rows": "The search for a nest was cut short before it was better than rows, which stand "
    "here. Under Stock and filling, a full search may fit more.",
    "rows_won": "Rows and columns need no more sheets than the nest that was found and leave at least as "
    "much of the last one, so they stand here.",
    "outside": "{name} on sheet {sheet} leaves the dotted area: it would be cut in a margin, in the grip or "
    "in a mark.",
    "overlap": "{one} and {other} on sheet {sheet} overlap: one would be cut into.",
    "close": "{one} and {other} on sheet {sheet} are {apart} apart; the gap is {gap}.",
    "marks_lost": "{stock} is too small for its marks: the lower ones would be lost or run into the upper "
    "ones. Take a larger sheet or smaller marks.",
    "mark_on_used": "The {mark} mark stands where this sheet was cut before. Take the scrap again, or a new "
    "sheet.",
    "marks_clear": "The {marks} clear the printer margin and the grip by {least} or more.",
    "marks_clear.not": "The {mark} mark reaches {into} into the printer margin or the grip: it would not be "
    "printed whole.",
    "marks_reach": "The sensor does not reach the {mark} mark: it stands {short} too near the edge.",
    "marks_close": "Marks only {spread} apart fix the turn to {turn}: that is {off} at the far corner. Move "
    "them apart.",
    "mat": "{stock} is {over} larger than the carrier mat: what hangs over is not held.",
    "small_job": "A small job, {share} of the sheet: marks of {radius} are enough for it and leave more to "
    "cut from later.",
    "machine_small.wide": "{stock} is {size} wide here and {machine} takes {limit}. Choose another machine, "
    "a smaller stock or a shorter panel.",
    "machine_small.long": "{stock} is {size} long here and {machine} takes {limit}. Choose another machine, "
    "a smaller stock or a shorter panel.",
    "remainder": "Only the first {until} of the sheet are needed. With the lower marks drawn in to there, "
    "the other {kept} can be printed on later.",
    "list": "{note}",
    "labels_unfit": "{unfit} of {labels} labels do not fit and are not printed whole: {rows}{more}.",
    "labels_unfit.more": "; and {count} more",
    "labels_short": "{shortened} of {labels} labels were shortened by your short forms.",
    "labels_fit": "All {labels} labels of {name} fit; the smallest capitals are {least} high.",
    "label_box": "The box “{box}” reaches {past} past {name}: what it says may be cut off.",
    "rights.no": "{name} may not be sold, and this job is an order.{source}",
    "rights.unknown": "Nobody has said whether {name} may be sold, and this job is an order.{source} Ask "
    "whoever drew it; local law decides.",
    "rights.source": " Its source: {source}.",
}
