"""One line a figure: name, ours, baseline, ratio."""

import sys
from collections.abc import Callable, Iterator

from bench import (
    artwork,
    chaos,
    cutting,
    error_map,
    faults,
    files,
    fuzz,
    hostile,
    labels,
    leak,
    learning,
    lines,
    machines,
    screen,
    sensing,
    sheets,
    shop,
    soak,
    stall,
    stockroom,
    strangers,
    trade,
)
from bench.figure import Figure

FIGURES: list[Callable[[], Iterator[Figure]]] = [
    artwork.backgrounds_judged_and_removed,
    artwork.time_of_a_verdict_and_removal,
    strangers.strangers_judged_and_removed,
    hostile.mutated_files_at_the_api,
    hostile.largest_pictures_in_a_reader,
    lines.trace_the_first_time,
    lines.border_slider_at_the_api,
    screen.border_slider_on_the_screen,
    lines.remedy_at_the_api,
    lines.lines_over_picture_sizes,
    lines.bleed_of_a_large_picture,
    files.full_sheet,
    cutting.slip_over_seeds,
    cutting.way_between_a_thousand_lines,
    sensing.marks_beside_their_noise,
    faults.cuts_that_are_broken_off,
    machines.proposals_of_test_cuts,
    machines.nozzles_on_scans_and_photos,
    machines.causes_that_are_named,
    learning.borders_by_the_log,
    learning.calibrations_by_the_log,
    learning.pictures_of_cut_sheets,
    error_map.map_beside_what_is_cut,
    trade.plans_of_the_day,
    trade.subjects_out_of_photos,
    trade.hair_out_of_photos,
    trade.mutated_fonts,
    sheets.plans_in_time,
    sheets.nest_beside_rows,
    sheets.nests_beside_the_raw_packer,
    sheets.nests_of_random_sets,
    sheets.layouts_that_hold,
    labels.thousand_labels,
    stockroom.ledger_under_kills,
    shop.jobs_list_of_five_thousand,
    shop.job_of_sixty_designs,
    shop.crowd_of_uploads,
    shop.two_workers_beside_one,
]

LONG: dict[str, Callable[..., Iterator[Figure]]] = {
    "chaos": chaos.chaos,
    "fuzz": fuzz.fuzz,
    "leak": leak.leak,
    "slow_reader": stall.slow_reader,
    "stall": stall.stall,
    "soak": soak.soak,
}


def main() -> None:
    """Every figure, or those whose name begins with the first argument; the long ones each by itself.

    Those are `chaos MINUTES SEED`, `soak HOURS`, `fuzz REQUESTS FILES`, `leak REQUESTS FILES`, `stall SECONDS` and
    `slow_reader SECONDS`.
    """
    wanted, *numbers = sys.argv[1:] or [""]
    if wanted in LONG:
        for figure in LONG[wanted](*map(float, numbers)):
            print(figure, flush=True)
        return
    groups = [each for each in FIGURES if each.__name__.startswith(wanted)]
    if not groups:
        sys.exit(
            f"No figure begins with {wanted!r}. There are: {', '.join(each.__name__ for each in FIGURES)}."
        )
    for group in groups:
        for figure in group():
            print(figure, flush=True)


main()
