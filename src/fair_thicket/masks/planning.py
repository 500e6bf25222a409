"""From a card, or from bare outlines, to the plan of presses and masks."""

import msgspec

from fair_thicket.laid.by_hand import stamped_by_hand
from fair_thicket.masks.counters import find_counters
from fair_thicket.masks.problem import Problem, deepest_pile
from fair_thicket.masks.problem_of_card import pose, surfaces_of
from fair_thicket.masks.program import Clock
from fair_thicket.masks.solve import Solution, solve
from fair_thicket.model.card import Work, stamping_keys
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import Mask, MaskPlan, Press
from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.stretch import measure, merge


def plan(work: Work, *, seconds: float = 9.0, go_on: GoOn = lambda: True) -> MaskPlan:
    """Plan presses and masks of a card.

    Parameters
    ----------
    work : Work
    seconds : float
        The plan is proven best within this time, or says that it is not.
    go_on : callable
        Asked now and then; False ends the search, with what was found.

    Raises
    ------
    PaperError
        When the pins cannot all hold.

    Notes
    -----
    Every surface is stamped by itself (a strip does not lie under the platform with the panel), one after the other;
    what is to be cut out is stamped on a sheet of its own, last; by hand, when all is glued, only what may be.
    """
    whole, clock = MaskPlan(), Clock(seconds)
    for surface in surfaces_of(work):
        whole = _after(whole, plan_problem(pose(work, surface), seconds=clock.left, go_on=go_on), surface)
    counters = find_counters(work, whole.presses)
    return msgspec.structs.replace(whole, counters=counters, presses=(*whole.presses, *_by_hand(work)))


def _by_hand(work: Work) -> list[Press]:
    """Stamp what is stamped by hand, image by image, from the left."""
    keys = stamped_by_hand(work)
    pieces = sorted((piece for piece in work.card.pieces if piece.id in keys), key=lambda piece: (piece.x, piece.id))
    return [
        Press(stamping_keys(piece, work.stash.find(piece.stamp)), (), piece.on, by_hand=True)
        for piece in pieces
        if isinstance(piece, Impression)
    ]


def _after(first: MaskPlan, second: MaskPlan, surface: str) -> MaskPlan:
    """One plan after the other."""
    presses = tuple(msgspec.structs.replace(press, surface=surface) for press in second.presses)
    return MaskPlan(
        presses=(*first.presses, *presses),
        masks=(*first.masks, *second.masks),
        placements=first.placements + second.placements,
        deepest_pile=max(first.deepest_pile, second.deepest_pile),
        optimal=first.optimal and second.optimal,
        fewest_presses=first.fewest_presses + second.fewest_presses,
        least_careful_mm=first.least_careful_mm + second.least_careful_mm,
    )


def plan_problem(problem: Problem, *, seconds: float = 9.0, go_on: GoOn = lambda: True) -> MaskPlan:
    """Plan presses and masks of a posed problem (see `posing.pose_bare`)."""
    if not problem.stampings:
        return MaskPlan()
    solution = solve(problem, seconds=seconds, go_on=go_on)
    presses = _presses(problem, solution)
    masks, placements = _masks(problem, solution)
    return MaskPlan(
        presses=presses,
        masks=masks,
        placements=placements,
        deepest_pile=deepest_pile(problem),
        optimal=solution.proven,
        fewest_presses=min(solution.fewest_presses, sum(not press.is_ink for press in presses)),
        least_careful_mm=round(solution.least_careful_mm, 3),
    )


def _presses(problem: Problem, solution: Solution) -> tuple[Press, ...]:
    presses = []
    for press in range(max(solution.times) + 1):
        stamped = [i for i, time in enumerate(solution.times) if time == press]
        masked = [i for i, behind in enumerate(problem.behind) if any(solution.times[j] == press for j in behind)]
        turned = [j if solution.times[j] == press else i for i, j in problem.half_turns]
        left = [
            problem.stampings[k].id
            for k, pair in zip(turned, problem.half_turns, strict=True)
            if {solution.times[i] for i in pair} == {press - 1, press}
        ]
        is_ink = any(problem.stampings[i].is_wash for i in stamped)
        keys = tuple(problem.stampings[i].id for i in stamped)
        if keys:  # a press that nothing is left for, because a pin names a later one, is not made
            presses.append(Press(keys, _pieces(problem, masked), is_ink=is_ink, turned=tuple(left)))
    return tuple(presses)


def _pieces(problem: Problem, indices: list[int]) -> tuple[str, ...]:
    """Ids of the images that lie under masks: a mask covers all layers of one."""
    return tuple(problem.stampings[i].piece or problem.stampings[i].id for i in indices)


def _masks(problem: Problem, solution: Solution) -> tuple[tuple[Mask, ...], int]:
    """Collect each slot's members into one mask, and count how often masks are laid down."""
    members: dict[tuple[str, int], list[int]] = {}
    for i, slot in enumerate(solution.slots):
        if slot >= 0:
            members.setdefault((problem.stampings[i].stamp, slot), []).append(i)
    masks, placements = [], 0
    for (stamp, _), indices in members.items():
        needed = sorted((solution.times[j], i) for i in indices for j in set(problem.behind[i]))
        order = [i for k, (_, i) in enumerate(needed) if k == 0 or needed[k - 1][1] != i]
        placements += len(order)
        stretches = merge(stretch for i in indices for stretch in problem.careful[i])
        length = problem.outline_mm(indices[0])
        serves = _pieces(problem, list(dict.fromkeys(order)))
        image = problem.stampings[indices[0]].image or stamp
        masks.append(Mask(image, serves, round(measure(stretches) * length, 6), round(length, 6), stretches))
    return tuple(masks), placements
