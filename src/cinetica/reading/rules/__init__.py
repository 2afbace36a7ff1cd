"""What each rule of the kernel says of a tick in which it acted: one file for each part of the tick, as in `motion/`.

A rule registers its words here, and the other rules that are told with it; a test goes over all rules of `ticks.RULES`.
"""
