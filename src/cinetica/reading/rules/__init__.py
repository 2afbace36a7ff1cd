"""What each rule of the kernel says of a tick in which it acted: one file for each part of the tick, as in `motion/`.

A rule registers its words here, along with other rules that they cover; a test checks every rule of `ticks.RULES`.
"""
