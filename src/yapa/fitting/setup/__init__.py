"""Cases made of a track or of wanted outcomes."""
