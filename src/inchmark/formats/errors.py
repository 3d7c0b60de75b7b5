"""What a reader of files says when it cannot go on; the message is the sentence for the user."""


class UnreadableFileError(Exception):
    """The whole file cannot be read; says what is wrong and what to do."""
