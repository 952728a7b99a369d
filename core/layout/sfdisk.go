package layout

import (
	"fmt"
	"slices"
	"strings"
)

// Script is the proposal as a script that sfdisk takes, one line a partition.
func (l *Layout) Script() string {
	var b strings.Builder
	label := map[string]string{GPT: "gpt", MBR: "dos"}[l.Scheme]
	fmt.Fprintf(&b, "label: %s\nunit: sectors\nsector-size: %d\n", label, l.SectorBytes)
	if l.Scheme == GPT {
		fmt.Fprintf(&b, "first-lba: %d\n", Align/l.SectorBytes)
	}
	b.WriteByte('\n')
	// One that holds others comes before them.
	parts := slices.Clone(l.Partitions)
	slices.SortStableFunc(parts, func(a, b Part) int { return a.Number - b.Number })
	for _, p := range parts {
		fmt.Fprintf(&b, "new%d : start=%d, size=%d", p.Number, p.StartBytes/l.SectorBytes, p.SizeBytes/l.SectorBytes)
		switch {
		case l.Scheme == GPT:
			kind, ok := guid(p.Type)
			if !ok {
				kind = typeOfData
			}
			fmt.Fprintf(&b, ", type=%s", strings.ToUpper(kind))
			if name := scriptName(p.Name); name != "" {
				fmt.Fprintf(&b, `, name="%s"`, name)
			}
		default:
			if kind, ok := mbrKind(p.Type); ok {
				fmt.Fprintf(&b, ", type=%x", kind)
			}
			if p.Role == Boot || p.Role == System &&
				!slices.ContainsFunc(parts, func(q Part) bool { return q.Role == Boot }) {
				b.WriteString(", bootable")
			}
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// scriptName is a name as the script can carry it: up to the 36 characters of a GPT, without
// what would end the line or its quotes.
func scriptName(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r == '"' || r == '\\' || r == 0x7f {
			return ' '
		}
		return r
	}, s)
	if r := []rune(strings.TrimSpace(s)); len(r) > 36 {
		s = string(r[:36])
	}
	return strings.TrimSpace(s)
}
