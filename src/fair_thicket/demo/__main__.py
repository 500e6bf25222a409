"""Make the shipped demo card anew: ``python -m fair_thicket.demo``. It goes through the simulated scanner."""

from fair_thicket.demo import CARD_FILE, demo_work
from fair_thicket.files.card_file import save_card

if __name__ == "__main__":
    save_card(CARD_FILE, *demo_work())
