package forms

// pieces cuts a word into parts that are at most so wide, in one pass. width is how wide a letter
// is behind the one before it (0: none). A letter that is wider than the room is a part by itself.
func pieces(word string, room float64, width func(before, r rune) float64) []string {
	var parts []string
	begin, wide, before := 0, 0.0, rune(0)
	for i, r := range word {
		w := width(before, r)
		if i > begin && wide+w > room {
			parts, begin, wide = append(parts, word[begin:i]), i, 0
			w = width(0, r)
		}
		wide, before = wide+w, r
	}
	return append(parts, word[begin:])
}
