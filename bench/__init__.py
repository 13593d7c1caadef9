"""What the program's speed is measured by: ratios within one run, some of them to bare loops in C."""
