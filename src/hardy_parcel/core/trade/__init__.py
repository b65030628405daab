"""The trade itself: codecs, containers, levels, names, rate control. Knows nothing of masters, platforms or plans."""
