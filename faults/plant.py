# SPDX-License-Identifier: MIT
"""Planted faults: each is put into a copy of the tree, and the tests named beside it must turn red.

A fault that no test catches is a hole in the tests. Prints one line a fault; ends with 1 if any was not caught.
"""

import compileall
import importlib
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

ROOT = Path(__file__).parents[1]
SIDE_BY_SIDE = 2
WARM = ("pytest", "hypothesis", "numba", "scipy.optimize", "scipy.sparse", "pydantic", "shapely", "trimesh", "PIL.Image", "PySide6.QtWidgets", "PySide6.QtTest", "ortools.sat.python.cp_model")  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """In ``file`` of the package, ``right`` becomes ``wrong``; ``tests`` are to see it."""

    words: str
    file: str
    right: str
    wrong: str
    tests: tuple[str, ...]


FAULTS = (
    Fault("lines push as well as pull", "core/stage/hanging.py",
          "pulls, _rest = nnls(most, np.concatenate([wanted, np.zeros(n)]))", "pulls = np.linalg.lstsq(most, np.concatenate([wanted, np.zeros(n)]), rcond=None)[0]", ("tests/core/test_weights.py::test_a_judge_of_pulls",)),
    Fault("the saw takes nothing", "core/stage/cutting.py",
          "packer.add_rect(panel.long + kerf, panel.wide + kerf, rid=panel.name)", "packer.add_rect(panel.long, panel.wide, rid=panel.name)", ("tests/core/test_cases.py::test_every_piece_comes_out_of_a_sheet",)),
    Fault("a sheet less is glued up", "core/stage/cases.py",
          "math.ceil(thickness / sheet - 1e-6)", "math.floor(thickness / sheet + 1e-6)", ("tests/core/test_cases.py::test_sheets_are_glued_up_to_a_thickness",)),
    Fault("openings lie mirrored in the back", "core/stage/cases.py",
          "return Frame(low + np.array([w, d, 0]), -_X, _Z, w, h)", "return Frame(low + np.array([0, d, 0]), _X, _Z, w, h)", ("tests/core/test_cases.py::test_faces_look_inwards",)),
    Fault("the floor lies on the shelf", "core/views/sight.py",
          "over = project.brief.shelf_height_mm + floor_over_shelf(project.case)", "over = project.brief.shelf_height_mm", ("tests/core/test_views.py::test_the_range_moves_the_head_sideways",)),
    Fault("a pane throws back with one face", "core/stage/glass.py",
          "out: Floats = across / (1 + across) + along / (1 + along)", "out: Floats = (across + along) / 2", ("tests/core/test_depth.py::test_brewster_and_grazing",)),
    Fault("what comes back from a mirror is lost", "core/stage/paths.py",
          "share[on[back]] * throws[back]", "share[on[back]] * throws[back] * 0", ("tests/core/test_glass.py::test_a_mirror_shows_in_the_picture_what_stands_before_it",)),
    Fault("a bulb in a mirror is not seen", "core/views/sight.py",
          "            by_eye[who] = True", "            by_eye[who] |= False", ("tests/core/test_glass.py::test_a_bulb_that_shows_in_a_mirror_is_seen",)),
    Fault("the saw takes the part that stands out", "core/stage/seams.py",
          "way *= -np.sign(way @ vector) or 1.0", "way *= np.sign(way @ vector) or 1.0", ("tests/core/test_seams.py::test_a_bar_that_stands_in_a_block_is_sawn_square",)),
    Fault("the kinds of rays do not know of each other", "core/light/loops.py",
          "total = around * form + density * min(", "total = around * form + 0 * density * min(", ("tests/core/test_aim.py::test_rays_of_all_kinds_find_what_those_by_the_cosine_find",)),
    Fault("what is drawn counts as asked for", "core/light/loops.py",
          "total = around * form + density * min(", "total = around * form + density + 0 * min(", ("tests/core/test_aim.py::test_rays_of_all_kinds_find_what_those_by_the_cosine_find",)),
    Fault("who missed the light does not look again", "core/light/aim.py",
          "others = (near != np.arange(len(near))[:, None]) & (share[near] > 0)", "others = (near == np.arange(len(near))[:, None]) & (share[near] > 0)", ("tests/core/test_aim.py::test_nobody_decides_by_his_own_luck_whether_to_look_again",)),
    Fault("gates face every ray", "core/light/loops.py",
          "asked * t * facing / across", "asked * t * facing", ("tests/core/test_aim.py::test_rays_of_all_kinds_find_what_those_by_the_cosine_find",)),
    Fault("points in gates lie by chance", "core/light/loops.py",
          "bits = (number >> (1 - axis)) & 0x55555555", "bits = (number * 2654435761 >> (1 - axis)) & 0x55555555", ("tests/core/test_aim.py::test_points_in_gates_lie_as_evenly_as_they_can",)),
    Fault("a narrow face has no patch", "core/stage/scene.py",
          "np.concatenate([[0.0], values[keep][1:-1], [1.0]])", "values[keep]", ("tests/core/test_light.py::test_a_face_narrower_than_what_counts_as_touching_has_a_patch_of_its_own",)),
    Fault("edges of light are looked at no better", "core/light/texels.py",
          "edge = some[texels.at_edges(seen[some], seen[rows(texels.beside, some)])]", "edge = some[:0]", ("tests/core/test_aim.py::test_strips_of_light_are_measured_at_their_edges",)),
    Fault("what has moved is asked for where it was", "core/light/casts.py",
          "within = np.where(self.gone, 0.0, before.within)", "within = before.within", ("tests/core/test_following.py::test_what_it_sees_of_the_figure_is_right_on_an_average",)),
    Fault("a body is moved into what was asked for, and nobody looks", "core/light/casts.py",
          "ask = alive[g.row] & ~lost & moved.crossed(g.begin, g.end - g.begin, g.far)", "ask = np.zeros(len(g.row), bool)", ("tests/core/test_following.py::test_rays_that_were_left_would_have_come_to_the_same",)),
    Fault("the shadow of what moves stays in the mirror", "core/light/following.py",
          "moved.unfolded(scene.panes, met).between", "moved.between", ("tests/core/test_following.py::test_what_comes_straight_and_what_mirrors_throw_is_that_of_a_fresh_one",)),
    Fault("a shadow that moves is painted where it was", "core/light/picture.py",
          "new |= moved.between(at, points)", "pass", ("tests/core/test_following.py::test_a_picture_follows_and_is_that_of_a_fresh_look",)),
    Fault("edges beside what moves stay as they were", "core/light/frames.py",
          "kept = ~near[edge] & (was[at] == edge)", "kept = was[at] == edge", ("tests/core/test_following.py::test_a_picture_follows_and_is_that_of_a_fresh_look",)),
    Fault("a floor is as dark as what stood on it left it", "core/light/nodes.py",
          "(covered != self.covered)[grid.near]", "(covered & ~self.covered)[grid.near]", ("tests/core/test_following.py::test_nodes_follow_and_are_those_of_what_is_covered_now",)),
    Fault("light is told across a wall", "core/light/nodes.py",
          "& out[:, nearer].all(1)", "", ("tests/core/test_nodes.py::test_no_light_is_told_across_a_wall_or_by_what_is_covered",)),
    Fault("light swings beside a steep rise", "core/light/nodes.py",
          "some, corner = np.nonzero(held)", "some, corner = np.nonzero(0 * held)", ("tests/core/test_nodes.py::test_beside_a_steep_rise_it_is_no_darker_than_before_it",)),
    Fault("a fit is held against its own half of the rays", "core/light/nodes.py",
          "- other[:, _OWN]) ** 2 + ((mean * other).sum(1) - one[:, _OWN]) ** 2", "- one[:, _OWN]) ** 2 + ((mean * other).sum(1) - other[:, _OWN]) ** 2", ("tests/core/test_nodes.py::test_noise_is_taken_out_of_smooth_light_and_edges_stay",)),
    Fault("texels of a patch have more light than it has", "core/light/texels.py",
          "off = blended - onto @ (mean @ blended)", "off = blended - onto", ("tests/core/test_nodes.py::test_texels_share_in_what_bounces_and_the_mean_stays",)),
    Fault("halves of the rays are uneven ones", "core/light/patches.py",
          "for half in np.array_split(found, 2)]", "for half in np.array_split(found[np.argsort(found[:, -1])], 2)]", ("tests/core/test_nodes.py::test_two_halves_of_the_rays_are_the_whole_and_know_nothing_of_each_other",)),
    Fault("one bad neighbour among good ones is nothing to mind", "core/light/aim.py",
          "out: Floats = np.divide(others.sum(1), lacking, out=np.ones(len(near)), where=lacking > 0)", "out: Floats = np.where(lacking > 0, (share[near] * others).sum(1) / np.maximum(others.sum(1), 1), 1.0)", ("tests/core/test_aim.py::test_one_bad_neighbour_is_enough_to_look_again",)),
    Fault("where few rays bear the light no more go", "core/light/receivers.py",
          "np.clip(np.round(2 * lacking), 0, DOUBLED)", "np.clip(np.round(2 * lacking), 0, 0)", ("tests/core/test_aim.py::test_more_rays_go_the_fewer_bear_the_light_and_nobody_falls_off_an_edge",)),
    Fault("what is drawn once is never drawn again", "qt/stations/lamps/rig.py",
          "if shown != self._shown:", "if not self._shown:", ("tests/qt/test_under_the_hand.py::test_what_a_dragged_lamp_changes_nothing_in_is_not_drawn_anew",)),
    Fault("meters in what moves keep what they saw", "core/light/receivers.py",
          "same[moved.beside(lifted - NEAR_MM, lifted + NEAR_MM)] = -1", "same[:0] = -1", ("tests/core/test_following.py::test_receivers_follow_as_patches_do",)),
    Fault("bounced light is level at the edges of faces", "core/light/nodes.py",
          "terms(_CORNERS * (size", "terms(0 * _CORNERS * (size", ("tests/core/test_nodes.py::test_light_goes_on_to_the_edges_of_a_face_as_it_falls",)),
    Fault("a mean is held against its own half", "core/light/smoothing.py",
          "(mean @ one - other) ** 2 + (mean @ other - one) ** 2", "(mean @ one - one) ** 2 + (mean @ other - other) ** 2", ("tests/core/test_smoothing.py::test_noise_on_smooth_light_is_halved",)),
    Fault("what is seen beside the case counts as backdrop", "core/views/backdrops.py",
          "~out & _through(cell, eye, points)", "~out", ("tests/core/test_depth.py::test_a_backdrop_is_as_large_as_the_hand_construction",)),
    Fault("parts stay behind", "core/edits/moving.py",
          "    for part in along:\n        if part", "    for part in ():\n        if part", ("tests/core/test_moving.py::test_parts_lines_and_lamps_go_with_a_piece",)),
    Fault("what hangs on a crane does not pull it over", "core/stage/weights.py",
          "        loads = self.loads(body)\n        total", "        loads = NOTHING\n        total", ("tests/core/test_hung_on_pieces.py::test_a_load_on_a_crane_goes_into_its_tipping",)),
    Fault("a quote counts no days off", "core/prints/ordering.py",
          "return days + 2 * ceil(days / 5)", "return days", ("tests/core/test_ordering.py::test_so_many_working_days_last_at_most_so_long",)),
    Fault("a printer of one's own is as large as its kind", "core/prints/printers.py",
          'return {**row, **said, "build": build}', "return {**row, **said}", ("tests/core/test_own_printers.py::test_its_room_says_what_goes_on",)),
    Fault("what is near a meter counts twice", "core/light/receivers.py",
          " * total - back[self.texel])", " * total)", ("tests/core/test_near_light.py::test_a_millimetre_from_walls_it_is_as_light_as_it_is",)),
    Fault("patches reach under what stands off them", "core/stage/scene.py",
          "(off.max(1) < NARROW_MM)", "(off.max(1) < 0.0)", ("tests/core/test_near_light.py::test_it_is_as_dark_in_a_gap_as_it_is",)),
    Fault("cuts leave slivers", "core/prints/slivers.py",
          "        if lacks > _AT:", "        if lacks > 1e9:", ("tests/core/test_slivers.py::test_a_cut_by_hand_at_the_very_end_goes_aside",)),
    Fault("what was bought grows with the scale", "core/edits/rescaling.py",
          'return piece.origin == "scratch" and', 'return', ("tests/core/test_rescaling.py::test_a_thing_that_was_bought_keeps_its_size",)),
    Fault("a wrong sign: too small reads as too large", "core/scale/reading.py",
          "off = house_n / n - 1", "off = 1 - house_n / n", ("tests/core/test_scale.py::test_what_is_too_large_is_off_upwards",)),
    Fault("a swapped unit: an inch of centimetres", "core/lengths.py",
          "INCH_MM = 25.4", "INCH_MM = 2.54", ("tests/core/test_lengths.py::test_lengths_as_makers_write_them",)),
    Fault("a swapped ratio in forced perspective", "core/scale/placing.py",
          "native_n / house_n - eye_mm", "house_n / native_n - eye_mm", ("tests/core/test_sizes.py::test_forced_perspective_is_similar_triangles",)),
    Fault("light falls with the distance, not its square", "core/emitters/point.py",
          "d2 *= d\n", "d2 = d * 1\n", ("tests/core/test_light.py::test_inverse_square_and_cosine",)),
    Fault("half the flux of a candela", "core/light/strength.py",
          "ROW_FLUX_LM = math.pi", "ROW_FLUX_LM = math.pi / 2", ("tests/core/test_light.py::test_a_lamp_of_its_rows_angle_has_its_rows_candela",)),
    Fault("a dropped series resistance in the LED", "core/circuit/diode.py",
          " + amps * self.series_ohm)", ")", ("tests/core/test_circuit.py::test_diodes_meet_their_data_sheet_points",)),
    Fault("only one way of the wire", "core/circuit/supply.py",
          "(2 * length_mm / 1000)", "(length_mm / 1000)", ("tests/core/test_circuit.py::test_wire_resistance_both_ways",)),
    Fault("the next resistor down instead of up", "core/circuit/supply.py",
          ">= ohm * (1 - 1e-9)", ">= ohm * 0.8", ("tests/core/test_circuit.py::test_next_resistor_up",)),
    Fault("paint dries faster in the cold", "core/coats/drying.py",
          "2.0 ** ((20.0 - bench_c) / 10.0)", "2.0 ** ((bench_c - 20.0) / 10.0)", ("tests/core/test_coats.py::test_cold_doubles_drying_every_ten_degrees",)),
    Fault("a dropped link: what a step closes is no longer painted before it", "core/coats/links.py",
          "(chain.things[later.id] | chain.shuts[later.id])\n            follows", "chain.things[later.id]\n            follows", ("tests/core/test_coats.py::test_surfaces_keep_the_order_of_their_coats",)),
    Fault("an off-by-one: a step that is split hangs by its second part", "core/order/work.py",
          "if i:\n                out", "if i > 1:\n                out", ("tests/core/test_order.py::test_every_part_of_a_long_step_hangs_on_the_one_before",)),
    Fault("what is done counts as dry", "core/order/work.py",
          "calendar.minute_at(moment) + lag)", "calendar.minute_at(moment))", ("tests/core/test_plan_judged.py::test_the_judge_finds_nothing_on_random_projects",)),
    Fault("two prints run on one machine", "core/order/work.py",
          "holds=machines_for(project, step), held=held", "held=held", ("tests/core/test_plan_judged.py::test_the_judge_finds_nothing_on_random_projects",)),
    Fault("a tie is as long as anybody likes", "core/order/work.py",
          "kept[pair] = Link(*pair, lag, most.get(pair))", "kept[pair] = Link(*pair, lag)", ("tests/core/test_plan_judged.py::test_the_judge_finds_nothing_on_random_projects",)),
    Fault("setting up takes no time", "core/order/work.py",
          "(s.out, s.clean) for tool, s", "(0, 0) for tool, s", ("tests/core/test_plan_judged.py::test_the_judge_finds_nothing_on_the_samples",)),
    Fault("a light is tested before it is wired", "core/coats/links.py",
          "needs |= {i for i, wired in wiring if wired & tested}", "pass", ("tests/core/test_order.py::test_nothing_is_tested_before_it_is_wired_nor_joined_while_it_is_wet",)),
    Fault("faces are joined while they are wet", "core/coats/links.py",
          'return "handle" if joins(step) else step.dryness', "return step.dryness", ("tests/core/test_order.py::test_nothing_is_tested_before_it_is_wired_nor_joined_while_it_is_wet",)),
    Fault("copies on a resin plate take their hours one after the other", "core/prints/jobs.py",
          "resin_seconds(plate, layer, row) / 3600", "resin_seconds(plate, layer, row) * len(plate) / 3600", ("tests/core/test_prints.py::test_what_lies_side_by_side_takes_the_hours_of_the_highest",)),
    Fault("a colour is kept as the display shows it", "core/colours.py",
          "return linear(tuple(int(x, 16) / 255 for x in found.groups()))", "return tuple(int(x, 16) / 255 for x in found.groups())", ("tests/core/test_typed.py::test_colours_go_round",)),
    Fault("in the odds all coats dry alike", "core/order/replay.py",
          "self._lags[link] * self._waits[self._sources[link], i]", "self._lags[link]", ("tests/core/test_plan_judged.py::test_the_odds_are_those_of_a_plain_replay",)),
    Fault("the steps of a print stay as they were", "core/edits/edit.py",
          "for made in (handing, printing, threads):", "for made in (handing, threads):", ("tests/core/test_prints.py::test_a_print_hands_its_steps_to_coats_once_and_they_follow_it",)),
    Fault("a film in hundredths", "core/fits/air.py",
          "for c in coats)) / 1000", "for c in coats)) / 100", ("tests/core/test_fits.py::test_the_peg_that_fitted_bare_and_no_longer_goes_in",)),
    Fault("the volume of a print thrice", "core/prints/body.py",
          "(t[:, 0] * normal).sum(1) / 6", "(t[:, 0] * normal).sum(1) / 2", ("tests/core/test_prints.py::test_analytic_solids",)),
    Fault("a photograph read with its axes swapped", "core/photo/wall.py",
          "found[:, :2] *= sides[:, :, None]", "found[:, :2] *= sides[:, ::-1, None]", ("tests/core/test_photo.py::test_lengths_on_a_wall_under_half_a_percent_with_half_a_pixel_of_noise",)),
    Fault("flashes are never counted", "core/motion/generators.py",
          "rising, low = False, v", "rising, low = True, v", ("tests/core/test_motion.py::test_flashes_are_counted",)),
    Fault("a removed thing is still named", "core/model/references.py",
          "project = tied_up(listing.spot.set(project, rest))", "project = listing.spot.set(project, rest)",
          ("tests/core/test_references.py::test_the_samples_have_no_loose_ends",)),
    Fault("undo keeps what came after it", "app/document.py",
          "        del self._entries[self._at :]\n", "", ("tests/app/test_document.py::test_what_was_undone_is_gone_once_something_else_is_done",)),
    Fault("unknown keys pass the door", "core/unknown.py",
          "    if not unknown and not _lacks(project):\n        return project, ()\n", "    return project, unknown\n", ("tests/core/test_unknown.py::test_an_unknown_key_is_kept_told_and_leaves_the_rest_be",)),
    Fault("every edit starts the clock of autosave anew", "qt/frame/keeping.py",
          "if not self._timer.isActive() or self._timer.interval() == RETRY_MS:", "if True:", ("tests/qt/test_projects.py::test_whoever_keeps_typing_is_kept_too",)),
    Fault("a file that another wrote is written over", "storage/files.py",
          "if expected is not None and swap.path.exists() and stamp(swap.path) != expected:", "if False:", ("tests/storage/test_hands.py::test_what_another_wrote_since_is_not_written_over",)),
    Fault("backups move before there is a twin", "storage/files.py",
          "    newest = twin(path)\n    try:\n", "    newest = path\n    try:\n", ("tests/storage/test_hands.py::test_without_links_on_a_full_disk_the_backups_survive",)),
    Fault("a dead worker is mourned and not replaced", "app/workers.py",
          "            again = list(self._open.values())\n", "            again = []\n", ("tests/app/test_worker_deaths.py::test_a_worker_that_is_killed_is_started_anew_and_asked_again",)),
    Fault("misleading ways out are offered", "app/judge.py",
          "not in self.misleading)", "not in ())", ("tests/app/test_results.py::test_a_way_out_that_leads_to_the_next_prompt_is_not_offered",)),
    Fault("packed evenings forget what waits outside them", "core/order/packing.py",
          "            last[k.before] = min(last[k.before], end - k.lag)\n", "", ("tests/core/test_plan_judged.py::test_packing_leaves_be_what_waits_outside_its_evenings",)),
    Fault("a result forgets what it depends on", "core/derived.py",
          "(_sizes(p), p.brief.house_n))", "(_sizes(p),))", ("tests/app/test_results.py::test_only_what_depends_on_an_edit_is_computed_again",)),
    Fault("polarisations are averaged before the second face", "core/stage/glass.py",
          "out: Floats = across / (1 + across) + along / (1 + along)", "out: Floats = (across + along) / (1 + (across + along) / 2)", ("tests/core/test_depth.py::test_a_pane_throws_back_each_polarisation_on_its_own",)),
    Fault("what was made of one snapshot is taken for that of another", "core/model/snapshots.py",
          "if not kept or kept[0][0] is not snapshot:", "if not kept:", ("tests/core/test_snapshots.py::test_it_is_made_once_of_each_snapshot",)),
    Fault("the window is painted beside what took its time", "qt/frame/tailor.py",
          "if self._breath.short and self._waited", "if False and self._waited", ("tests/qt/test_frame.py::test_one_thing_a_turn",)),
    Fault("rows of form factors are cut off at one", "core/light/matrices.py",
          "ROW_MOST = 1.05", "ROW_MOST = 1.0", ("tests/core/test_light.py::test_pale_closed_boxes_lose_no_light",)),
    Fault("texels beside a lamp stay large", "core/light/texels.py",
          "SIDE, SIDE_MOST = 4, 48", "SIDE, SIDE_MOST = 4, 16", ("tests/core/test_light.py::test_all_light_of_a_lamp_over_a_face_lands_on_it",)),
    Fault("a closing step does not wait for its lamps", "core/coats/links.py",
          '| {("lamps", i) for i in inside})', ")", ("tests/core/test_plan_judged.py::test_a_closing_step_waits_for_its_lamps",)),
    Fault("a promise beside a stop", "core/order/plan.py",
          "return None if self.stopped or self.unkept else self.finish", "return self.finish", ("tests/core/test_order.py::test_there_is_no_promise_beside_what_cannot_be_done",)),
    Fault("minutes forget the area", "core/handwork.py",
          "self.rate * self.area_cm2 / 100 + self.each)))", "self.rate + self.each)))", ("tests/core/test_unsaid.py::test_minutes_come_from_the_work",)),
    Fault("many sizes disagree too often", "core/scale/combine.py",
          "_chance(dof, chi2) >= CHANCE", "_chance(min(dof, 10), chi2) >= CHANCE", ("tests/core/test_scale.py::test_consistent_sizes_are_said_to_disagree_in_one_of_twenty",)),
    Fault("the boards of a case weigh at their foot", "core/stage/weights.py",
          "sum((grams * np.array(at) for grams, at in parts)", "sum((grams * np.array([at[0], at[1], 0.0]) for grams, at in parts)", ("tests/core/test_weights.py::test_a_case_weighs_and_balances_as_its_boards_do",)),
    Fault("bodies touch by their hulls", "core/stage/clearance.py",
          "depth = min(depth, shared_mm(a, places[a.id], b, places[b.id]))", "depth = depth + 0.0", ("tests/core/test_stage.py::test_what_stands_under_an_arm_touches_nothing",)),
    Fault("layers need no time to set", "core/prints/jobs.py",
          'seconds = max(drawn, layers * row["least_layer_s"])', "seconds = drawn", ("tests/core/test_supports_and_walls.py::test_no_layer_takes_less_than_it_needs_to_set",)),
    Fault("soldering forgets what feeds the lamps", "core/cautions.py",
          "        yield supply.section, supply.row\n", "        pass\n", ("tests/core/test_cautions.py::test_soldering_that_the_rig_hands_over_tells_of_the_iron_and_of_what_feeds_it",)),
    Fault("every sprayed coat lifts", "core/coats/conflicts.py",
          'return top["thinner"] == BITES or tool in', "return True or tool in", ("tests/core/test_coat_pairs.py::test_every_coat_over_every_other",)),
    Fault("a glue asks one side only", "core/fits/glue.py",
          "is_any(a, one) and is_any(b, other)", "is_any(a, one) or is_any(b, other)", ("tests/core/test_joins.py::test_no_pair_is_offered_what_does_not_hold_it",)),
    Fault("what names an own row keeps the old one", "core/edits/own_rows.py",
          "old.key, self.row.key)", "old.key, old.key)", ("tests/core/test_tables.py::test_an_own_led_lights_as_its_values_say_and_so_when_they_change",)),
    Fault("children are measured by a man's shares", "core/scale/reading.py",
          'segments(person)[row["segment"]]', 'segments("man")[row["segment"]]', ("tests/core/test_life_sizes.py::test_every_part_of_a_true_body_reads_as_its_scale",)),
    Fault("a lamp gives the light of a large one", "core/light/strength.py",
          'row["candela"] * package_share(lamp)', 'row["candela"]', ("tests/reference/test_published_tables.py::test_leds_by_package_give_what_data_sheets_say",)),
    Fault("a camera is always level", "core/photo/cameras.py",
          "    return found, _dot(left, left)\n", "    return found * 0, _dot(left, left)\n", ("tests/core/test_photo.py::test_a_tilted_camera_is_told_or_widens_what_is_said",)),
    Fault("colours leave as screens show them", "storage/scenes.py",
          '*map(float, paints[material["name"]])', '*map(float, shown(paints[material["name"]]))', ("tests/storage/test_exchange.py::test_a_glb_has_linear_colours_and_its_lamps_where_they_hang",)),
    Fault("holes of a section are full", "core/stage/sections.py",
          " and _inside(points, faces, k, at, axes, p)]", "]", ("tests/storage/test_exchange.py::test_a_wall_is_cut_with_its_opening_and_a_tube_with_its_hole",)),
    Fault("what is typed is left out of a save", "qt/frame/main_window.py",
          'left = "" if name in INTO_FIELDS else self.projects.taking.take()', 'left = ""', ("tests/qt/test_typed.py::test_what_is_typed_is_saved_with_the_field_still_in_focus",)),
    Fault("autosave knows nothing of what is typed", "qt/frame/keeping.py",
          "self._session.after(f.attempt for f in self._typing())", "document.project", ("tests/qt/test_typed.py::test_autosave_writes_down_what_is_typed_and_leaves_the_field_alone",)),
    Fault("the project is written before what it names", "storage/recovery.py",
          "if path is not None and isinstance(assets, Assets)", "if True or isinstance(assets, Assets)", ("tests/storage/test_kept.py::test_assets_are_written_before_the_project_that_names_them",)),
    Fault("a save drops the last copy", "storage/files.py",
          "stays = bool(lost) and any(", "stays = False and any(", ("tests/storage/test_kept.py::test_a_backup_that_alone_holds_something_stays",)),
    Fault("a full disk keeps half-written files", "storage/disk.py",
          "        with contextlib.suppress(OSError):  # on a full disk closing tries once more to write what is left\n            self.file.close()\n", "        self.file.close()\n", ("tests/storage/test_kept.py::test_a_full_disk_keeps_no_half_written_files_and_tells_what_is_needed",)),
    Fault("known lengths that disagree say nothing", "core/photo/reading.py",
          "            if chance > APART and", "            if chance > 1e9 and", ("tests/core/test_photo.py::test_known_lengths_that_disagree_are_said_to_and_widen_all_that_hangs_on_them",)),
    Fault("a disagreement is shared by one more", "core/scale/combine.py",
          "math.sqrt(chi2 / dof)", "math.sqrt(chi2 / (dof + 1))", ("tests/core/test_scale.py::test_what_disagrees_is_known_by_how_far_it_lies_apart",)),
    Fault("a wide lamp shines into half the sphere", "core/emitters/point.py",
          "(4 if self.wide else 2)", "2", ("tests/core/test_light.py::test_the_flux_of_a_lamp_is_its_intensity_over_the_sphere",)),
    Fault("four parts of a meter know no more than one", "core/light/desk.py",
          ".std(ddof=1)) / math.sqrt(PARTS)", ".std(ddof=1))", ("tests/core/test_told_errors.py::test_by_chance_alone_a_meter_swings_as_far_as_is_told",)),
    Fault("cells in series resist as one", "core/circuit/supply.py",
          'row["depth"], row["ohm"])) * supply.count', 'row["depth"], row["ohm"]))', ("tests/core/test_circuit.py::test_cells_in_series_are_one_cell_as_often",)),
    Fault("the bars pile up on the machine that is free last", "core/prints/jobs.py",
          "name = min(plate.machines,", "name = max(plate.machines,", ("tests/core/test_prints.py::test_more_printers_halve_the_calendar_not_the_work",)),
    Fault("a wait runs after the drying", "core/coats/drying.py",
          "max(step.wait_h, usual", "(step.wait_h + usual", ("tests/core/test_coats.py::test_what_a_step_waits_for_by_itself_runs_beside_its_coat",)),
    Fault("a print that fails is lost whole", "core/order/odds.py",
          "fails * work.lost * rng", "fails * rng", ("tests/core/test_ordering.py::test_prints_fail_as_often_and_cost_as_much_as_is_said",)),
    Fault("a tie runs after the drying", "core/coats/links.py",
          "return max([wait, *tied])", "return sum([wait, *tied])", ("tests/core/test_coats.py::test_a_tie_runs_beside_the_drying",)),
    Fault("resin bridges less than it does", "core/prints/supports.py",
          '"resin": 60.0', '"resin": 55.0', ("tests/core/test_supports_and_walls.py::test_what_hangs_over_is_what_looks_down_more_steeply_than_the_process_bridges",)),
)  # fmt: skip


class Copy:
    """A copy of the tree, and a process that has loaded what all tests need and splits off one for each fault."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        for name in ("src", "tests"):
            shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("*.egg-info"))  # with what is compiled
        compileall.compile_dir(folder, quiet=1)
        shutil.copy(ROOT / "pyproject.toml", folder)
        env = {**os.environ, "PYTHONPATH": str(folder / "src"), "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1"}
        self._warm = subprocess.Popen(
            [sys.executable, __file__, "--serve"], cwd=folder, env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def end(self) -> None:
        """Nothing more is planted here."""
        self._warm.communicate()

    def plant(self, fault: Fault) -> bool:
        """Whether the tests see it. Raises ValueError where the right text is no longer there exactly once, or the tests do not run."""
        assert self._warm.stdin is not None
        assert self._warm.stdout is not None
        victim = self.folder / "src" / "fondale" / fault.file
        text = victim.read_text("utf-8")
        if text.count(fault.right) != 1:
            raise ValueError(f"{fault.file} does not hold {fault.right!r} once")
        stamp = victim.stat()
        victim.write_text(text.replace(fault.right, fault.wrong), "utf-8")
        try:
            # What is compiled of it is for this run alone.
            loops = str(self.folder / "planted") if "@compiled(" in text else ""
            print(json.dumps([loops, *fault.tests]), file=self._warm.stdin, flush=True)
            code, said = json.loads(self._warm.stdout.readline())
        finally:
            victim.write_text(text, "utf-8")
            os.utime(victim, ns=(stamp.st_atime_ns, stamp.st_mtime_ns))  # what was compiled of it is still good
        if code not in (0, 1):
            raise ValueError(f"the tests of {fault.file} did not run: {said}")
        return bool(code == 1)


def serve() -> None:
    """Run the tests that are asked for, line by line, each time in a process that is split off here: loading takes as long as most tests do."""
    for name in WARM:
        importlib.import_module(name)
    for line in sys.stdin:
        loops, *tests = json.loads(line)
        with tempfile.TemporaryFile() as said:
            child = os.fork()
            if child == 0:
                os.dup2(said.fileno(), 1)
                os.dup2(said.fileno(), 2)
                if loops:
                    importlib.import_module("numba").config.CACHE_DIR = loops
                # Asserts that tell more would be written anew into each module, for half of the time.
                code = importlib.import_module("pytest").main(["-q", "-x", "-p", "no:cacheprovider", "--assert=plain", *tests])
                sys.stdout.flush()
                os._exit(int(code))
            code = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
            said.seek(0)
            print(json.dumps([code, said.read()[-800:].decode("utf-8", "replace")]), flush=True)


def main() -> int:
    """Plant them, two side by side, each in a copy of its own; words that are given choose those that hold them."""
    chosen = [f for f in FAULTS if all(word in f"{f.file} {f.words}" for word in sys.argv[1:])]
    missed = 0
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
        free: SimpleQueue[Copy] = SimpleQueue()
        for copy in pool.map(Copy, (Path(folder) / str(k) for k in range(SIDE_BY_SIDE))):
            free.put(copy)

        def planted(fault: Fault) -> tuple[bool, float]:
            copy, since = free.get(), time.monotonic()
            try:
                return copy.plant(fault), time.monotonic() - since
            finally:
                free.put(copy)

        for fault, (caught, seconds) in zip(chosen, pool.map(planted, chosen), strict=True):
            missed += not caught
            print(f"{'caught    ' if caught else 'NOT CAUGHT'}  {seconds:5.1f} s  {fault.file}: {fault.words}", flush=True)
        for _ in range(SIDE_BY_SIDE):
            free.get().end()
    print(f"{len(chosen) - missed} of {len(chosen)} caught")
    return 1 if missed else 0


if __name__ == "__main__":
    if sys.argv[1:] == ["--serve"]:
        serve()
    else:
        sys.exit(main())
