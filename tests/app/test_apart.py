# SPDX-License-Identifier: MIT
"""A project's file is read in a process of its own: whatever it does to that one is told in one line."""

import multiprocessing as mp
import os
import signal

import pytest

from fondale.app import apart
from fondale.app.apart import opened_apart
from fondale.demo import sample_assets
from fondale.storage import FileTrouble, save
from fondale.storage.patience import OUT_OF_TIME

FORK = mp.get_context("fork")


def test_a_document_comes_over_whole(heron, tmp_path):
    path = tmp_path / "a.fondale"
    assets = sample_assets(heron.name)
    made = save(heron, path, assets)
    document = opened_apart(path, FORK)
    assert (document.project, dict(document.assets), document.stamp, document.path) == (heron, assets, made.stamp, path)
    assert not document.modified


def test_what_is_wrong_comes_over_in_words(tmp_path):
    with pytest.raises(FileTrouble, match="There is no file"):
        opened_apart(tmp_path / "none.fondale", FORK)


@pytest.mark.parametrize(
    ("number", "words"), [(OUT_OF_TIME, "s of the processor"), (signal.SIGKILL, "want of memory"), (signal.SIGSEGV, "it broke")]
)
def test_a_reader_that_dies_is_told(tmp_path, monkeypatch, number, words):
    monkeypatch.setattr(apart, "_read", lambda _path, _pipe: os.kill(os.getpid(), number))
    with pytest.raises(FileTrouble, match=words):
        opened_apart(tmp_path / "a.fondale", FORK)


def test_a_reader_that_breaks_is_told(tmp_path, monkeypatch):
    monkeypatch.setattr(apart, "_read", lambda _path, _pipe: os._exit(7))
    with pytest.raises(FileTrouble, match="it broke, with the code 7"):
        opened_apart(tmp_path / "a.fondale", FORK)
