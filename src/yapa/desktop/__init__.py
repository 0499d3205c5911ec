"""The window: shows and edits. No arithmetic of the job lives here."""

import yapa.session.desk  # noqa: F401  before Qt, which reads the source of every module that is imported after it
