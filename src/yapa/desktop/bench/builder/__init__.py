"""Building by hand: the stock, what is in the scene, and the card of what is selected."""
