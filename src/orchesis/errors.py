"""Errors that are meant for people: one sentence that says what is wrong and what to do."""


class OrchesisError(Exception):
    """Anything that the user can understand and act on. Its text is shown as it is."""


class RefusedAudio(OrchesisError):
    """The file cannot be taken as a recording; the text names the reason and the limit."""


class InvalidTranscription(OrchesisError):
    """A transcription or an edit that breaks the rules of the format."""


class Missing(OrchesisError):
    """What was asked for is not kept, or not there yet; the text says how it would come to be."""


class Cancelled(OrchesisError):
    """The work was stopped because the user asked for it."""
