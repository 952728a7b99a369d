// Package layout proposes the partitions of a new drive: their place, size, order and
// alignment, with no free space left where a partition could not use it.
//
// It is pure: it knows sizes in bytes and types of partitions, no drives and no tools.
package layout

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware"
)

// Format is at the head of a proposal as JSON.
const (
	Format  = "nowthen-layout"
	Version = 1
)

// Align is what every partition's start is a multiple of, bytes.
const Align = 1 << 20

// headroom is the share of what is used and what there must be room for (calculations,
// section 11).
const headroom = 0.85

// HasHeadroom reports whether a drive with that much in use, bytes, keeps the recommended free space.
func HasHeadroom(used, capacity int64) bool { return float64(used) <= headroom*float64(capacity) }

// mbrSectors is how many sectors an MBR can count.
const mbrSectors = 1 << 32

// Ways to divide a drive.
const (
	SameSize = "same-size" // all keep their size; the rest stays free behind the system's
	ByUse    = "by-use"    // what is free is shared by what is used
	ForSys   = "system"    // all keep their size where they can; the system's gets the rest
)

// Own shares it out by sizes that somebody gave: those of [Target].Sizes; the others keep theirs,
// and the rest stays free behind the
// system's.
const Own = "own"

// Ways are all automatic ways to divide a drive.
var Ways = []string{SameSize, ByUse, ForSys}

// Source is the existing drive.
type Source struct {
	CapacityBytes int64
	SectorBytes   int64 // 0 where not known
	Partitions    []hardware.Partition
	// System is the number of the partition that the system runs from; 0 where not known.
	System int
}

// Target is the drive that they go to.
type Target struct {
	CapacityBytes int64
	SectorBytes   int64 // 512 or 4096
	As            string
	// Sizes are those of [Own], bytes, by the numbers of the partitions on the drive as it is.
	Sizes map[int]int64
}

// Part is a proposed partition.
type Part struct {
	Of         int    `json:"of"` // number on the drive as it is
	Number     int    `json:"number"`
	Type       string `json:"type"`
	Name       string `json:"name"`
	Role       string `json:"role"`
	StartBytes int64  `json:"start_bytes"`
	SizeBytes  int64  `json:"size_bytes"`
	// UsedBytes is nil where it is not known.
	UsedBytes *int64 `json:"used_bytes"`
	// Moved: it starts at a different place.
	Moved bool `json:"moved"`
	// GrownBytes is by how much it is larger than it was; below zero it is smaller.
	GrownBytes int64 `json:"grown_bytes"`
}

// Warning is something to know before the proposal is carried out.
type Warning struct {
	Rule  string `json:"rule"`
	Words string `json:"words"`
}

// Layout is a proposal. One that does not fit has no partitions.
type Layout struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Fits    bool   `json:"fits"`
	Scheme  string `json:"scheme"`
	// SectorBytes is the size of the new drive's sectors.
	SectorBytes int64  `json:"sector_bytes"`
	AlignBytes  int64  `json:"align_bytes"`
	Partitions  []Part `json:"partitions"`
	// FreeAfterBytes is the unpartitioned space.
	FreeAfterBytes int64     `json:"free_after_bytes"`
	Warnings       []Warning `json:"warnings"`
}

// part is a partition in the course of the computation.
type part struct {
	hardware.Partition
	role     string
	kind     byte // of an MBR
	logical  bool
	holds    bool  // other partitions: an extended one
	flexible bool  // its size may change
	known    bool  // how much of it is used
	least    int64 // bytes that it must have
	size     int64
}

// Errors of what was given.
var (
	ErrNone   = errors.New("no partition of the drive is known")
	ErrTarget = errors.New("the new drive's size cannot be so")
)

// maxBytes bounds sizes, so that sums do not overflow.
const maxBytes = 1 << 60

// check reports what is wrong with the partitions as they are.
func (s *Source) check() error {
	if len(s.Partitions) == 0 {
		return ErrNone
	}
	numbers := map[int]bool{}
	for _, p := range s.Partitions {
		switch {
		case p.Number < 1 || numbers[p.Number]:
			return fmt.Errorf("the partition number %d stands twice, or is none", p.Number)
		case p.SizeBytes < 1 || p.SizeBytes > maxBytes || p.StartBytes < 0 || p.StartBytes > maxBytes:
			return fmt.Errorf("partition %d: %d bytes from %d on cannot be so", p.Number, p.SizeBytes, p.StartBytes)
		case p.UsedBytes < 0 || p.UsedBytes > p.SizeBytes:
			return fmt.Errorf("partition %d: %d bytes of %d are used", p.Number, p.UsedBytes, p.SizeBytes)
		}
		numbers[p.Number] = true
	}
	return nil
}

// Propose proposes how the partitions of a drive come to lie on another one.
func Propose(s Source, t Target) (*Layout, error) {
	if err := s.check(); err != nil {
		return nil, err
	}
	if t.CapacityBytes < 4*Align || t.CapacityBytes > maxBytes {
		return nil, fmt.Errorf("%w: %d bytes", ErrTarget, t.CapacityBytes)
	}
	if t.SectorBytes != 512 && t.SectorBytes != 4096 {
		return nil, fmt.Errorf("%w: sectors of %d bytes", ErrTarget, t.SectorBytes)
	}
	if t.As != Own && !slices.Contains(Ways, t.As) {
		return nil, fmt.Errorf("%q is no way to share a drive out; there are %s", t.As, strings.Join(Ways, ", "))
	}
	p := proposal{source: s, target: t,
		out: &Layout{Format: Format, Version: Version, SectorBytes: t.SectorBytes, AlignBytes: Align,
			Partitions: []Part{}, Warnings: []Warning{}}}
	if err := p.read(); err != nil {
		return nil, err
	}
	p.warnOfSource()
	usable := p.usable()
	if !p.share(usable) {
		return p.out, nil
	}
	p.lay(usable)
	p.out.Fits = true
	return p.out, nil
}

// proposal is a layout being computed.
type proposal struct {
	source Source
	target Target
	parts  []part // in order of their start
	out    *Layout
}

func (p *proposal) warn(rule, format string, args ...any) {
	p.out.Warnings = append(p.out.Warnings, Warning{rule, fmt.Sprintf(format, args...)})
}

func up(n, to int64) int64   { return (n + to - 1) / to * to }
func down(n, to int64) int64 { return n / to * to }

// scheme reports which partition table the types are about.
func (p *proposal) scheme() string {
	for _, q := range p.source.Partitions {
		if _, ok := guid(q.Type); ok {
			return GPT
		}
	}
	for _, q := range p.source.Partitions {
		if _, ok := mbrKind(q.Type); ok {
			return MBR
		}
	}
	p.warn("scheme-unknown", "No partition says of which kind it is; a GPT is proposed.")
	return GPT
}

// read puts the partitions in order and works out what each is.
func (p *proposal) read() error {
	p.out.Scheme = p.scheme()
	for _, q := range p.source.Partitions {
		a := part{Partition: q, role: roleOf(q.Type), known: q.UsedBytes > 0}
		if k, ok := mbrKind(q.Type); ok && p.out.Scheme == MBR {
			a.kind, a.holds = k, extended(k)
		}
		if a.role == "" {
			a.role = Data
			if !a.holds {
				p.warn("type-unknown", "Partition %d does not say of which kind it is; it is taken for data.", q.Number)
			}
		}
		a.logical = p.out.Scheme == MBR && q.Number > 4
		p.parts = append(p.parts, a)
	}
	slices.SortStableFunc(p.parts, func(a, b part) int {
		return cmp.Or(cmp.Compare(a.StartBytes, b.StartBytes), cmp.Compare(b.SizeBytes, a.SizeBytes))
	})
	if err := p.disjoint(); err != nil {
		return err
	}
	p.findSystem()
	for i := range p.parts {
		a := &p.parts[i]
		if a.holds {
			continue
		}
		first := !slices.ContainsFunc(p.parts[:i], func(b part) bool { return !b.holds })
		if p.out.Scheme == MBR && first && a.role == Data && a.SizeBytes <= small {
			a.role = Boot
		}
		a.flexible = a.role == Data || a.role == System
		a.size = up(a.SizeBytes, p.target.SectorBytes)
		a.least = a.size
		if a.flexible && a.known {
			a.least = min(a.size, up(int64(float64(a.UsedBytes)/headroom), Align))
		}
	}
	return nil
}

// disjoint refuses partitions that overlap, but for those that hold others.
func (p *proposal) disjoint() error {
	end, of := int64(0), 0
	for _, a := range p.parts {
		if a.holds {
			continue
		}
		if a.StartBytes < end {
			return fmt.Errorf("partitions %d and %d overlap", of, a.Number)
		}
		end, of = a.StartBytes+a.SizeBytes, a.Number
	}
	return nil
}

// findSystem marks the partition that the system runs from: the one that is said to be, else
// the one whose type says so, else the fullest of those that hold data, else the largest.
func (p *proposal) findSystem() {
	best := -1
	for i, a := range p.parts {
		switch {
		case a.holds || a.role != Data && a.role != System && a.Number != p.source.System:
			continue
		case best < 0:
			best = i
			continue
		}
		b := p.parts[best]
		rank := func(q part) int {
			switch {
			case q.Number == p.source.System:
				return 2
			case q.role == System:
				return 1
			}
			return 0
		}
		if c := cmp.Or(cmp.Compare(rank(a), rank(b)), cmp.Compare(a.UsedBytes, b.UsedBytes),
			cmp.Compare(a.SizeBytes, b.SizeBytes)); c > 0 {
			best = i
		}
	}
	for i := range p.parts {
		if p.parts[i].role == System {
			p.parts[i].role = Data
		}
	}
	if best >= 0 {
		p.parts[best].role = System
		if p.source.System == 0 && roleOf(p.parts[best].Type) != System {
			p.warn("system-guessed", "Which partition holds the system is not known; number %d is taken for it.",
				p.parts[best].Number)
		}
	}
}

// usable is where the last partition ends at most.
func (p *proposal) usable() int64 {
	end := p.target.CapacityBytes
	if p.out.Scheme == GPT {
		end -= 33 * p.target.SectorBytes // the second table at the end
		if p.target.SectorBytes == 4096 {
			end = p.target.CapacityBytes - 5*p.target.SectorBytes
		}
	} else if most := mbrSectors * p.target.SectorBytes; end > most {
		p.warn("mbr-limit", "An MBR counts %d GB of this drive; what lies beyond stays unused. A GPT has no such "+
			"limit, where the firmware starts from one.", most/1e9)
		end = most
	}
	return down(end, Align)
}

// room is what a partition takes with its alignment, and the sector before a logical one.
func (a *part) room(size int64) int64 {
	if a.holds {
		return 0
	}
	n := up(size, Align)
	if a.logical {
		n += Align
	}
	return n
}

// share decides the sizes, and reports whether they fit.
func (p *proposal) share(usable int64) bool {
	used := int64(0)
	for _, a := range p.parts {
		switch {
		case a.holds:
		case a.known:
			used += a.UsedBytes
		case a.flexible:
			used += int64(headroom * float64(a.SizeBytes)) // as it is, since nobody knows
			p.warn("use-unknown", "How much of partition %d is used is not known; it keeps its size.", a.Number)
		}
	}
	if !HasHeadroom(used, p.target.CapacityBytes) {
		p.warn("too-small", "%.1f GB are used; with room to breathe they need %.1f GB, and the new drive has %.1f "+
			"GB. Move %.1f GB elsewhere first.",
			gb(used), gb(int64(float64(used)/headroom)), gb(p.target.CapacityBytes), gb(used-int64(headroom*float64(p.target.CapacityBytes))))
		return false
	}
	if p.target.As == Own {
		p.own()
	}
	free := usable - Align // the first one lies behind the table
	for i := range p.parts {
		free -= p.parts[i].room(p.parts[i].size)
	}
	if free < 0 && p.target.As == SameSize {
		p.warn("too-small", "The partitions at their sizes are %.1f GB more than the new drive has.", gb(-free))
		return false
	}
	if free < 0 && p.target.As == Own {
		p.warn("too-small", "At these sizes %.1f GB more are needed than the new drive has.", gb(-free))
		return false
	}
	switch {
	case p.target.As == SameSize || p.target.As == Own:
		return true
	case free < 0 && !p.squeeze(-free):
		return false
	case free < 0:
	case p.target.As == ForSys:
		if sys := p.system(); sys != nil {
			sys.size = up(sys.size, Align) + free
		}
	}
	if p.target.As == ByUse {
		p.byUse(usable)
	}
	return true
}

// own gives partitions the sizes that somebody wants, not below what they hold; one whose contents
// nobody knows does not shrink, and
// one that holds no files keeps its size.
func (p *proposal) own() {
	for i := range p.parts {
		a := &p.parts[i]
		want, ok := p.target.Sizes[a.Number]
		if !ok || !a.flexible || a.holds {
			continue
		}
		floor := up(a.SizeBytes, Align)
		if a.known {
			floor = up(a.UsedBytes, Align)
		}
		a.size = max(floor, down(min(want, p.target.CapacityBytes), Align))
		if a.known && a.size < up(a.least, Align) {
			p.warn("tight", "Partition %d would be more than 85 %% full.", a.Number)
		}
	}
}

func gb(n int64) float64 { return float64(n) / 1e9 }

func (p *proposal) system() *part {
	for i := range p.parts {
		if p.parts[i].role == System {
			return &p.parts[i]
		}
	}
	return nil
}

// squeeze takes bytes from what has room: from the system's first, then from the others, the
// roomiest before. Where that is not enough, the headroom is given up.
func (p *proposal) squeeze(need int64) bool {
	var from []*part
	for i := range p.parts {
		if a := &p.parts[i]; a.flexible && a.known && !a.holds {
			from = append(from, a)
		}
	}
	slices.SortStableFunc(from, func(a, b *part) int {
		if first := cmp.Compare(b.role, a.role); first != 0 { // "system" before "data"
			return first
		}
		return cmp.Compare(b.size-b.least, a.size-a.least)
	})
	for _, floor := range []func(a *part) int64{
		func(a *part) int64 { return a.least },
		func(a *part) int64 { return a.UsedBytes },
	} {
		for _, a := range from {
			need = a.give(need, up(floor(a), Align))
		}
	}
	if need > 0 {
		p.warn("too-small", "Even with every partition as small as its contents allow, %.1f GB are missing.", gb(need))
	}
	return need <= 0
}

// give makes a partition smaller, not below a floor, and returns what is still needed.
func (a *part) give(need, floor int64) int64 {
	has := up(a.size, Align)
	to := max(floor, down(has-need, Align))
	if need <= 0 || to >= has {
		return need
	}
	a.size = to
	return need - (has - to)
}

// byUse shares what is free among those whose size may change, by what is used of each.
func (p *proposal) byUse(usable int64) {
	free, used := usable-Align, int64(0)
	for i := range p.parts {
		a := &p.parts[i]
		if a.flexible && a.known {
			a.size = min(up(a.size, Align), up(a.least, Align))
			used += a.UsedBytes
		}
		free -= a.room(a.size)
	}
	if used == 0 || free <= 0 {
		if sys := p.system(); sys != nil && free > 0 {
			sys.size = up(sys.size, Align) + free
		}
		return
	}
	rest := free
	for i := range p.parts {
		if a := &p.parts[i]; a.flexible && a.known {
			more := down(int64(float64(free)*(float64(a.UsedBytes)/float64(used))), Align)
			a.size += more
			rest -= more
		}
	}
	if sys := p.system(); sys != nil { // what rounding left
		sys.size = up(sys.size, Align) + rest
	}
}

// lay gives each its place: in order, from the front; what stays free lies behind the system's,
// so that nothing keeps it from growing.
func (p *proposal) lay(usable int64) {
	starts := make([]int64, len(p.parts))
	at := int64(Align)
	for i := range p.parts {
		if a := &p.parts[i]; !a.holds {
			if a.logical {
				at += Align
			}
			starts[i] = at
			at = up(at+a.size, Align)
		}
	}
	p.out.FreeAfterBytes = max(0, usable-at)
	if sys := slices.IndexFunc(p.parts, func(a part) bool { return a.role == System }); sys >= 0 {
		for i := sys + 1; i < len(p.parts); i++ {
			starts[i] += max(0, usable-at)
		}
	}
	for i := range p.parts {
		a := &p.parts[i]
		if a.holds { // from before the first to the end of the last that it holds
			starts[i], a.size = p.holding(starts)
		}
		if a.size == 0 {
			continue // it holds nothing
		}
		o := Part{Of: a.Number, Number: a.Number, Type: a.Type, Name: a.Name, Role: a.role, StartBytes: starts[i],
			SizeBytes: a.size, Moved: starts[i] != a.StartBytes, GrownBytes: a.size - a.SizeBytes}
		if a.holds {
			o.Role = Reserved
		}
		if a.known {
			used := a.UsedBytes
			o.UsedBytes = &used
		}
		p.out.Partitions = append(p.out.Partitions, o)
	}
}

// holding is where the partition lies that holds the logical ones.
func (p *proposal) holding(starts []int64) (from, size int64) {
	to := int64(0)
	for i, a := range p.parts {
		if !a.logical || a.holds {
			continue
		}
		if from == 0 || starts[i]-Align < from {
			from = starts[i] - Align
		}
		to = max(to, up(starts[i]+a.size, Align))
	}
	return from, max(0, to-from)
}

// warnOfSource adds warnings about the existing drive.
func (p *proposal) warnOfSource() {
	if have := p.source.SectorBytes; have > 0 && have != p.target.SectorBytes {
		p.warn("sector-size",
			"The old drive has sectors of %d bytes, the new one of %d: a copy sector by sector does not start. Copy "+
				"the files, or let the cloning program convert.", have, p.target.SectorBytes)
	}
	sys := slices.IndexFunc(p.parts, func(a part) bool { return a.role == System })
	if sys >= 0 && p.target.CapacityBytes > p.source.CapacityBytes && p.source.CapacityBytes > 0 {
		for _, a := range p.parts[sys+1:] {
			if a.role == Recovery {
				p.warn("recovery-in-the-way",
					"Partition %d (recovery) lies behind the system's: copied as it is, it would keep the system's "+
						"from growing into the new room. It is moved to the end.", a.Number)
				break
			}
		}
	}
	for _, a := range p.parts {
		if !a.holds && a.StartBytes%4096 != 0 {
			p.warn("misaligned", "Partition %d starts at a place that slows a drive with sectors of 4 KiB down; its "+
				"new place does not.", a.Number)
		}
	}
	if p.out.Scheme == MBR &&
		!slices.ContainsFunc(p.out.Warnings, func(w Warning) bool { return w.Rule == "scheme-unknown" }) {
		p.warn("start-mode", "The drive has an MBR: leave the firmware's start mode as it is (legacy), or the copy "+
			"does not start.")
	}
}
