"""Dialogs and panels."""
