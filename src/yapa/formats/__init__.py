"""Files in and out: cases, tracks of any layout, what is handed over."""
