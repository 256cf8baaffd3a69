"""Sentences of the Artwork station."""

ARTWORK = {
    "undrawn": "{name} {what}",
    "held_line": "{name} holds a cut line of its own, “{line}”. It is not printed, and the line here follows "
    "the art instead.",
    "die": "{name} is a die: its lines are cut as they are drawn{more}, and nothing of it is printed.",
    "die.with": ", with {lines}",
    "die.resized": "{name} is a die, drawn {drawn} long and cut {cut} long.",
    "resolution.curves": "{name} is drawn in curves: sharp at any size, and its outline is its own.",
    "resolution": "{name}: {sharpness}, {verdict}{enlarged}",
    "resolution.sharp": "prints sharp up to {largest}.",
    "resolution.soft.photograph": "will look soft in print. A photograph is sharp from {good}.",
    "resolution.soft.drawing": "will look soft in print. A drawing is sharp from {good}.",
    "resolution.soft.line": "will look soft in print. Line art or type is sharp from {good}.",
    "resolution.line": "passes, but thin lines and small type want {good}.",
    "resolution.passes": "passes for a sticker on a laptop, but fine lines will look soft.",
    "resolution.enlarged": " Enlarging it {times} times made its edges smoother; it added no detail.",
    "feathered": "{name} fades out over {width}, so where its edge is cut is a guess. A harder edge cuts "
    "better.",
    "background_photograph": "{name} has no background that can be removed: it is a picture all over. Frame "
    "it, or cut its subject out. As it is, the cut is the picture's own rectangle.",
    "background_checkerboard": "{name} has no clear background. {reason} As it is, the cut is the picture's "
    "own rectangle.",
    "background_plain": "{name} has no clear background but a plain one: {reason} As it is, the cut is the "
    "picture's own rectangle.",
    "island": "A patch of {area} inside {name} has the colour of the background. It stays, in case it is art.",
    "island.small": "A patch of {area} inside {name} has the colour of the background. It is too small for "
    "the knife: better kept.",
    "islands": "{count} patches inside {name} have the colour of the background, the largest {largest}. They "
    "stay, in case they are art; each can be chosen under Background.{kept}",
    "islands.some_small": " {count} of them {count?is|are} too small for the knife, better kept.",
    "islands.all_small": " All of them are too small for the knife, better kept.",
    "page": "{name} holds {count} drawings that stand apart. As one piece they share one size.",
    "specks": "{count} {count?speck|specks} of less than {limit} beside {name}, the largest {largest}: each "
    "would be printed and most of them cut round.",
    "specks.under": "under {area}",
    "specks.area": "{area}",
    "shadow": "A soft shadow lay on the background of {name} and went with it, so the line follows the art. "
    "It can stay as soft transparency under it, or be cut round too: see Background.",
    "removal": "{told}{share}",
    "removal.share": " ({share} of the art is in question.)",
    "removal_taken": "{area} beside {name} went with the background though they differ from it a little: "
    "they may be art.",
    "removal_left": "{area} beside {name} stayed though they hardly differ from the background: they may "
    "belong to it.",
    "removal_leak": "The background was taken through a narrow gap into {name}: {area} behind it may be art "
    "of the same colour. Bring it back with the brush if so.",
    "removal_shadow": "A soft shadow lies against a part of {name} that is as grey, so it stayed and the "
    "line follows it. Rub it out with the brush, or use a picture without it.",
    "removal_nothing": "Hardly anything is left of {name}: its colours are those of its background.",
    "removal_speckled": "The background of {name} came off in crumbs, so it may be no plain background.",
    "flat": "{name} is cut flat by the picture's edge for {length}, as if a part of it were missing. Look "
    "for a picture with room round the art.",
    "pale": "{share} of {name}'s edge is nearly as pale as the paper: from a distance its form is lost. A "
    "coloured backing or a dark outline brings it back.",
    "thin": "{name} has {count} parts thinner than {limit}. {advice}",
    "thin.one": "{name} has a part thinner than {limit}. {advice}",
    "thin.carried": "The border of {border} carries {count?it|them}.",
    "thin.tears": "Without a border {count?it tears|they tear}.",
    "busy": "{name}'s edge is {times} times as long as a thread laid round it. Wider borders round it off.",
}
