"""View, rulers, painters, magnifier."""
