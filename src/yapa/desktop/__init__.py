"""The window: shows and edits. No arithmetic of the job lives here."""
