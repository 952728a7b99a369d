package words

import "fmt"

// Cleared says what happened to a round's test files: whether they are left for later,
// and whether the drive was told that their blocks are free, or why not; nil where there
// was nothing to tell.
func Cleared(left, trimmed bool, untrimmed error) string {
	switch {
	case left:
		return "A test file is left; it is removed when the drive answers, or at the next start."
	case trimmed:
		return "Test files removed, freed blocks trimmed."
	case untrimmed != nil:
		return fmt.Sprintf("Test files removed; freed blocks not trimmed: %v.", untrimmed)
	}
	return "Test files removed."
}
