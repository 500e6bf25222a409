"""What work takes and what a card comes to: minutes, grams, envelopes. Each figure has one rule, and it stands here.

Prices, the steps of the masks, the schedule, advice, the bench, pages and the shell ask; none reckons for itself.
"""
