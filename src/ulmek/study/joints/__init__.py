"""Joints made as a whole: what is asked for becomes parts, pairs, fasteners and steps, and follows what it joins."""
