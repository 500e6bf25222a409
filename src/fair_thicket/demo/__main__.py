"""Make the shipped demo cards anew: ``python -m fair_thicket.demo``. They go through the simulated scanner."""

from fair_thicket.demo import CARD_FILES, demo_work
from fair_thicket.demo.cards import cloud_card, dusk_card, slimline_card, window_card, with_tries
from fair_thicket.demo.night import night_card
from fair_thicket.files.card_file import save_card

if __name__ == "__main__":
    work, pictures = demo_work()
    cards = (
        with_tries(work),
        window_card(work),
        slimline_card(work),
        dusk_card(work),
        cloud_card(work),
        night_card(work),
    )
    for path, made in zip(CARD_FILES, cards, strict=True):
        save_card(path, made, pictures)
