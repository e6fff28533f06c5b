"""The motion shelf: what lies under the stage while cycles are made."""
