"""Sentences of the Artwork station."""

ARTWORK = {
    "undrawn": "{name} {what}",
    "held_line": "{name} contains a cut line of its own, “{line}”. The line here follows the art instead.",
    "die": "{name} is a die: its lines are cut as drawn{more}, and nothing is printed.",
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
    "feathered": "{name} fades out over {width}, so the position of its edge is a guess. A harder edge cuts better.",
    "background_photograph": "{name} has no removable background. Frame it or cut out its subject; otherwise "
    "the picture's rectangle is cut.",
    "background_checkerboard": "{name} has no clear background. {reason} As it is, the picture's rectangle is cut.",
    "background_plain": "{name} has no clear background but a plain one: {reason} As it is, the picture's "
    "rectangle is cut.",
    "island": "A patch of {area} inside {name} has the background's colour. It is kept, in case it is art.",
    "island.small": "A patch of {area} inside {name} has the background's colour. It is too small for the "
    "knife: better kept.",
    "islands": "{count} patches inside {name} have the background's colour, the largest {largest}. They are "
    "kept; change each under Background.{kept}",
    "islands.some_small": " {count} of them {count?is|are} too small for the knife.",
    "islands.all_small": " All of them are too small for the knife.",
    "page": "{name} holds {count} separate drawings. As one piece they share one size.",
    "specks": "{count} {count?speck|specks} of less than {limit} beside {name}, the largest {largest}. Each "
    "would be printed, and most would be cut round.",
    "specks.under": "under {area}",
    "specks.area": "{area}",
    "shadow": "The soft shadow of {name} was removed with its background. Under Background you can keep it, "
    "or cut round it.",
    "removal": "{told}{share}",
    "removal.share": " ({share} of the art is in question.)",
    "removal_taken": "{area} beside {name} was removed with the background but differs from it slightly. It "
    "may be art.",
    "removal_left": "{area} beside {name} was kept but hardly differs from the background. It may be background.",
    "removal_leak": "The removal went through a narrow gap into {name}: {area} behind it may be art. Restore "
    "it with the brush.",
    "removal_shadow": "A soft shadow beside grey art of {name} was kept, and the line follows it. Erase it "
    "with the brush.",
    "removal_nothing": "Hardly anything is left of {name}: its colours are close to the background's.",
    "removal_speckled": "The background of {name} was removed in speckles, so it may not be plain.",
    "flat": "{name} ends flat at the picture's edge for {length}, as if a part were missing. Use a picture "
    "with room round the art.",
    "pale": "{share} of {name}'s edge is nearly as pale as the paper. A coloured backing or a dark outline "
    "keeps its shape visible.",
    "thin": "{name} has {count} parts thinner than {limit}. {advice}",
    "thin.one": "{name} has a part thinner than {limit}. {advice}",
    "thin.carried": "The border of {border} supports {count?it|them}.",
    "thin.tears": "Without a border {count?it tears|they tear}.",
    "busy": "{name}'s edge is jagged: {times} times as long as a straight line round it. Wider borders smooth it.",
}
