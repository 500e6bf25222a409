"""The library against a plain dictionary: whatever is kept, changed and dropped, both say the same."""

import tempfile
from pathlib import Path

import msgspec
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fair_thicket.library import open_library
from fair_thicket.model.stash import Kind, Stamp
from making import framed_png, stamp

PICTURES = {"images/snail.png": framed_png(10, 10)}
WORDS = ["fern", "Farn", "tall", "old", "snail", "Ähre", "post"]

words = st.lists(st.sampled_from(WORDS), min_size=1, max_size=3).map(" ".join)
kinds = st.sampled_from([Kind.STAMP, Kind.GREETING, Kind.DIE])
steps = st.one_of(
    st.tuples(st.just("keep"), st.lists(st.tuples(words, kinds), min_size=1, max_size=3)),
    st.tuples(st.just("change"), st.tuples(st.integers(0, 20), words)),
    st.tuples(st.just("drop"), st.integers(0, 20)),
)


def fits(image: Stamp, typed: str, kind: Kind | None) -> bool:
    told = f"{image.name} {image.set_name} {' '.join(image.tags)}".casefold().replace("ä", "a").split()
    asked = typed.casefold().replace("ä", "a").split()
    return all(any(word.startswith(one) for word in told) for one in asked) and kind in {None, image.kind}


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.lists(steps, max_size=12), st.sampled_from(["", "f", "fern", "ta ol", "ahr", "zzz"]), kinds | st.none())
def test_the_library_says_what_a_dictionary_says(asked: list, typed: str, kind: Kind | None) -> None:
    with tempfile.TemporaryDirectory() as folder:
        library = open_library(Path(folder) / "library.sqlite")
        model: dict[int, Stamp] = {}
        for what, how in asked:
            if what == "keep":
                images = [msgspec.structs.replace(stamp("snail"), name=name, kind=own) for name, own in how]
                model |= dict(zip(library.keep(images, PICTURES), images, strict=True))
            elif model and what == "change":
                number = sorted(model)[how[0] % len(model)]
                model[number] = msgspec.structs.replace(model[number], name=how[1], tags=("changed",))
                library.change(number, model[number])
            elif model and what == "drop":
                number = sorted(model)[how % len(model)]
                del model[number]
                library.drop([number])
        assert library.count() == len(model)
        found = library.search(typed, kinds=[kind] if kind else [])
        wanted = {number for number, image in model.items() if fits(image, typed, kind)}
        assert {entry.id for entry in found} == wanted
        assert [entry.name.lower() for entry in found if entry.name.isascii()] == sorted(
            entry.name.lower() for entry in found if entry.name.isascii()
        )
        for number, image in model.items():
            assert library.load(number) == (image, PICTURES)
        library.close()
