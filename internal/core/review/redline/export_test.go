package redline

import "slices"

// Weighed reports whether a list of the sheet has its place among what is gravest.
func Weighed(list string) bool { return slices.Contains(gravest, list) }
