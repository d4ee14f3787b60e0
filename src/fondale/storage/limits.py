# SPDX-License-Identifier: MIT
"""How much is read, at most: of one file, in one go. docs/file-format.md has them in one table, and a test holds the two together."""

READING_S = 8.0  # of the processor, for all of a reader's work on one file
READING_GRACE_S = 1.0  # later whoever does not hear is ended
MEMORY_BYTES = 2_500_000_000  # of one process that reckons

PROJECT_BYTES = 4_000_000_000  # with its assets
PROJECT_JSON_BYTES = 16_000_000
PROJECT_NESTS = 1_000_000  # lists and objects in it
PROJECT_THINGS = 50_000  # in one list
PROJECT_DEEP = 60  # nests in nests; our own models are less than ten deep
ASSETS = 5_000
ASSETS_BYTES = 2_000_000_000  # of all together, unpacked
ASSET_BYTES = 500_000_000  # of one, unpacked
ASSET_TIMES = 30  # unpacked as often as large as packed; photographs and bodies are packed at most a few times
ASSET_FREE_BYTES = 20_000_000  # so much may unfold as it will
CLIPBOARD_LETTERS = 16_000_000

STL_BYTES = 500_000_000  # binary STL: ten million triangles
STL_STEADY_BYTES = 100_000_000  # of binary STL, which hides nothing, for READING_S; a larger one has more time
MESH_BYTES = 100_000_000  # other bodies, which become many times larger as they are read
MESH_TEXT_BYTES = 150_000_000  # a 3MF, unpacked
MESH_HEAD_BYTES = 8_000_000  # of a GLB
MESH_TRIANGLES = 4_000_000  # unfolded, of a 3MF or GLB
MESH_PARTS = 2_500  # each of them takes some milliseconds to unfold

PHOTO_BYTES = 250_000_000
PHOTO_PIXELS = 150_000_000
PHOTO_CLEAR_PIXELS = 90_000_000  # with transparency: it is held twice
PHOTO_WEBP_PIXELS = 50_000_000  # held four times
PHOTO_ROUNDS = 100  # that a progressive JPEG is drawn in; cameras and programs write about ten
PHOTO_ROUNDS_PIXELS = 110_000_000  # of one: what it is reckoned from is held as well

TABLE_BYTES = 40_000_000
TABLE_ROWS = 50_000
PLAN_BYTES = 20_000_000
PLAN_LINES = 5_000
SMALL_BYTES = 1_000_000  # settings, what lies beside unsaved work
