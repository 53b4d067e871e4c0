"""A spec as texts in a form, and as a file of the user's."""

from __future__ import annotations

from pathlib import Path

import pytest

from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import remove_spec, save_spec, shipped, spec_book
from waxseal.core.deliver.specs.spec_edits import spec_of, texts_of
from waxseal.core.errors import JobError
from waxseal.core.folders import specs_folder
from waxseal.core.job.model import change


@pytest.fixture(autouse=True)
def own_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    return specs_folder()


def test_a_form_has_every_key_and_loses_nothing() -> None:
    assert set(texts_of(shipped()[0])) == set(Spec.model_fields)
    for spec in shipped():
        assert spec_of(texts_of(spec)) == spec
    odd = change(shipped()[0], true_peak=0.0, loudness=-16.5, channels=(1, 2), key_seconds=0.5)
    assert spec_of(texts_of(odd)) == odd


def test_numbers_are_read_as_they_are_shown() -> None:
    texts = texts_of(shipped()[0]) | {"loudness": " −23.5 ", "sizes": "64x64 , 128x128,"}
    spec = spec_of(texts)
    assert (spec.loudness, spec.sizes) == (-23.5, ("64x64", "128x128"))


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"channels": "two"}, "Channels: it has to be a whole number."),
        ({"longest": "-3"}, "Longest: it has to be 0 or more."),
        ({"key_seconds": "often"}, "Key frames: it has to be a number."),
        ({"sizes": "huge"}, "Sizes: “huge” is not a frame size"),
        ({"alpha": "straight"}, "H.264 carries no alpha: choose a codec that does"),
        ({"name": " "}, "Name: it is not there."),
    ],
)
def test_what_is_wrong_is_said_with_the_words_of_its_field(
    wrong: dict[str, str], words: str
) -> None:
    with pytest.raises(JobError) as said:
        spec_of(texts_of(shipped()[0]) | wrong)
    assert str(said.value).startswith(words)


def test_one_of_the_users_is_renamed_and_removed(own_folder: Path) -> None:
    ours = change(shipped()[0], name="Ours & theirs")
    file = save_spec(ours)
    assert spec_book().file_of("ours & THEIRS") == file
    again = save_spec(change(ours, name="Ours", longest=5.0), replaces="Ours & theirs")
    assert again == file  # the same file, whatever it is called
    assert [one.name for one in own_folder.iterdir()] == [file.name]
    assert spec_book().get("Ours & theirs") is None
    assert spec_book().named("Ours").longest == 5.0
    # Another of a name that makes the same file's name has a file of its own.
    other = save_spec(change(ours, name="Ours / theirs"))
    assert other != file
    remove_spec("Ours")
    assert spec_book().get("Ours") is None
    with pytest.raises(JobError, match="comes with Wax Seal"):
        remove_spec(shipped()[0].name)


def test_one_of_a_shipped_name_takes_its_place_and_gives_it_back() -> None:
    first = shipped()[0]
    save_spec(change(first, longest=3.0))
    assert spec_book().named(first.name).longest == 3.0
    remove_spec(first.name)
    assert spec_book().named(first.name) == first
