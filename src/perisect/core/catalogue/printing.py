"""Sentences of the Print station: set-up cards and print heads."""

PRINTING = {
    "card_surface": "The card sets {media} for {surface} stock, and {stock} is {gloss}: colours come out "
    "poor and the ink may not hold. Choose another media type, or correct the card.",
    "card_surface.media": "“{media}”",
    "card_surface.unnamed": "the media type",
    "card_tray": "{stock} is {thick} thick and goes round a bend from the front tray: it may jam or mark. "
    "Take the rear, straight path; the printer's manual says what each takes.",
    "card_path": "The card feeds from {tray}, and {stock} is a {kind}.",
    "card_fit": "Fit to page is on: the sheet is printed larger or smaller than it is drawn, and its marks "
    "lie elsewhere than the plotter looks for them. Switch it off.",
    "card_borderless": "Borderless is on: the sheet is printed larger or smaller than it is drawn, and its "
    "marks lie elsewhere than the plotter looks for them. Switch it off.",
    "card_bleed": "Bleed is printed round art that has a white border: it blurs the art's edge. Switch the "
    "bleed off, or the border.",
    "card_side": "Nobody has said how the sticker face lies in this printer. Print the marked sheet on plain "
    "paper once, and see on which side it comes.",
    "head_unseen": "Nobody has looked at this printer's head yet. Print its pattern before a long job.",
    "head_gaps": "Of {groups} groups of nozzles an ink some do not fire: {gaps}. Clean the head as the "
    "printer's manual says, and print the pattern once more: a head that drops lines ruins a sheet.",
    "head_old": "The head was looked at {days} ago. Print its pattern before a long job.",
}
