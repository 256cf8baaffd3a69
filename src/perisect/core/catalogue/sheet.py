"""Sentences of the Sheet station."""

SHEET = {
    "too_large": "{name} with its lines is {size} and does not fit on {stock} inside the marks.",
    "too_many": "{missing} of {name} are left out: a job holds at most {sheets} sheets.",
    "too_many.none": "No sheet is left for {name}: a job holds at most {sheets} sheets. Make fewer of the "
    "other pieces, or a separate job.",
    "not_shared": "{name} is not a plain box that is cut through: its line is not shared, and would touch "
    "its neighbour's.",
    "card_full": "{missing} of {name} do not fit on the card. Make the card larger or the pieces smaller.",
    "card_large": "A card of {size} does not fit on {stock}.",
    "card_heading": "The heading does not fit {width}, or the font lacks a letter of it. Make it shorter.",
    "nest_waiting": "The nest has not been searched yet. Rows and columns are shown until then.",
    "nest_cut_short": "The search for this nest was cut short. Under Stock and filling, a full search may fit more.",
    "nest_cut_short.rows": "The search for a nest was cut short, so rows are used. Under Stock and filling, "
    "a full search may fit more.",
    "rows_won": "Rows need no more sheets than the nest that was found, and leave as much of the last one. "
    "Rows are used.",
    "outside": "{name} on sheet {sheet} leaves the dotted area. It would be cut in a margin, in the grip or "
    "in a mark.",
    "overlap": "{one} and {other} on sheet {sheet} overlap: one would be cut into.",
    "close": "{one} and {other} on sheet {sheet} are {apart} apart; the gap is {gap}.",
    "marks_lost": "{stock} is too small for its marks: the lower ones would be lost or overlap the upper "
    "ones. Use a larger sheet or smaller marks.",
    "mark_on_used": "The {mark} mark is where this sheet was cut before. Choose the scrap again, or a new sheet.",
    "marks_clear": "The {marks} clear the printer margin and the grip by {least} or more.",
    "marks_clear.not": "The {mark} mark reaches {into} into the printer margin or the grip: it would not be "
    "printed whole.",
    "marks_reach": "The sensor does not reach the {mark} mark: it is {short} too near the edge.",
    "marks_close": "Marks only {spread} apart fix the rotation to {turn}, which is {off} at the far corner. "
    "Move them apart.",
    "mat": "{stock} is {over} larger than the carrier mat, and what hangs over is not held.",
    "small_job": "This job uses {share} of the sheet. Marks of {radius} are enough, and leave more to cut later.",
    "machine_small.wide": "{stock} is {size} wide here and {machine} takes {limit}. Choose another machine, "
    "a smaller stock or a shorter panel.",
    "machine_small.long": "{stock} is {size} long here and {machine} takes {limit}. Choose another machine, "
    "a smaller stock or a shorter panel.",
    "remainder": "Only the first {until} of the sheet are needed. With the lower marks moved up to there, "
    "you can print on the other {kept} later.",
    "list": "{note}",
    "labels_unfit": "{unfit} of {labels} labels do not fit and are not printed whole: {rows}{more}.",
    "labels_unfit.more": "; and {count} more",
    "labels_short": "{shortened} of {labels} labels were shortened by your short forms.",
    "labels_fit": "All {labels} labels of {name} fit; the smallest capitals are {least} high.",
    "label_box": "The box “{box}” extends {past} beyond {name}: its text may be cut off.",
    "rights.no": "{name} may not be sold, but this job is an order.{source}",
    "rights.unknown": "It is not entered whether {name} may be sold, but this job is an order.{source} Ask "
    "its author; local law decides.",
    "rights.source": " Its source: {source}.",
}
