"""What is wrong with a file that ought to be a backup."""


class Damaged(Exception):
    """The file cannot be taken as a backup; its text is one sentence without a subject: "is damaged: ..."."""
