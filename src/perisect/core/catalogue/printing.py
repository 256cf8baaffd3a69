"""Sentences of the Print station: set-up cards and print heads."""

PRINTING = {
    "card_surface": "The card sets {media} for {surface} stock, but {stock} is {gloss}: colours may be poor "
    "and the ink may not hold. Change the media type, or the card.",
    "card_surface.media": "“{media}”",
    "card_surface.unnamed": "the media type",
    "card_tray": "{stock} is {thick} thick and bends in the front tray: it may jam or mark. Use the rear, "
    "straight path; the printer's manual gives its limits.",
    "card_path": "The card feeds from {tray}, but {stock} is a {kind}.",
    "card_fit": "Fit to page is on: the sheet is printed at another size, and the plotter misses its marks. "
    "Switch it off.",
    "card_borderless": "Borderless is on: the sheet is printed at another size, and the plotter misses its "
    "marks. Switch it off.",
    "card_bleed": "Bleed is printed round art that has a white border, and blurs its edge. Switch off the "
    "bleed, or the border.",
    "card_side": "The print side of this printer is not entered. Print the test page on plain paper, and see "
    "which side it is on.",
    "head_unseen": "This printer's head has not been checked. Print its pattern before a long job.",
    "head_gaps": "Some of the {groups} nozzle groups of an ink do not fire: {gaps}. Clean the head by the "
    "printer's manual, then print the pattern again.",
    "head_old": "The head was checked {days} ago. Print its pattern before a long job.",
}
