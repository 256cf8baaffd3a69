"""Processes and their memory, as the kernel tells of them."""

from pathlib import Path


def pids_under(pid: int, deep: bool = True) -> list[int]:
    """The children of a process, and all below them if `deep`."""
    below: list[int] = []
    try:
        for task in Path(f"/proc/{pid}/task").iterdir():
            for child in (task / "children").read_text(encoding="ascii").split():
                below += [int(child), *(pids_under(int(child)) if deep else [])]
    except OSError:
        pass  # It has ended meanwhile.
    return below


def commands(pids: list[int]) -> dict[int, str]:
    """Command lines of those that are still there."""
    found = {}
    for pid in pids:
        try:
            found[pid] = Path(f"/proc/{pid}/cmdline").read_text().replace("\0", " ")
        except OSError:
            continue
    return found


def megabytes(pid: int, which: str) -> float:
    """Memory of a process: `VmRSS` now, `VmHWM` at most, `Pss` with shared pages in their shares."""
    try:
        name = "smaps_rollup" if which == "Pss" else "status"
        lines = Path(f"/proc/{pid}/{name}").read_text(encoding="ascii").splitlines()
    except OSError:
        return 0.0
    return next((int(line.split()[1]) / 1024 for line in lines if line.startswith(f"{which}:")), 0.0)
