package fairness

import (
	"fmt"
	"slices"
)

// Value is a value on a side of a finding, as data; core/words turns it into text. nil is no value.
type Value interface{ value() }

type (
	// Text is what a person typed, or a proper name; it is printed unchanged.
	Text string
	// Digest is the digest of something that was opened or copied.
	Digest string
	// Drive, Computer and Test are things of the job, by their ids.
	Drive    string
	Computer string
	Test     string
	// Term is a member of an enumeration, such as battery of power.
	Term struct{ Of, Is string }
	// Quantity is a figure with its unit.
	Quantity struct {
		V    float64
		Unit string
	}
	// Phrase puts values together as its key says.
	Phrase struct {
		Key   string
		Parts map[string]Value
	}
	// Several are several values at once, in order.
	Several []Value
	// Mixed are what runs of one side state that should agree.
	Mixed []Value
)

func (Text) value()     {}
func (Digest) value()   {}
func (Drive) value()    {}
func (Computer) value() {}
func (Test) value()     {}
func (Term) value()     {}
func (Quantity) value() {}
func (Phrase) value()   {}
func (Several) value()  {}
func (Mixed) value()    {}

// unknown stands where nobody stated something.
var unknown = Term{"known", "no"}

// key tells values apart, and orders them.
func key(v Value) string {
	if v == nil {
		return ""
	}
	return fmt.Sprintf("%#v", v)
}

// same reports whether two values are.
func same(a, b Value) bool { return key(a) == key(b) }

// known is a value, or that nobody stated it.
func known(v Value) Value {
	if v == nil {
		return unknown
	}
	return v
}

// several joins values; none is nil, and one is itself.
func several(list []Value) Value {
	switch len(list) {
	case 0:
		return nil
	case 1:
		return list[0]
	}
	return Several(list)
}

// text is what somebody typed, or nil.
func text(s string) Value {
	if s == "" {
		return nil
	}
	return Text(s)
}

// term is a member of an enumeration; "" is nil.
func term[T ~string](of string, is T) Value {
	if is == "" {
		return nil
	}
	return Term{of, string(is)}
}

// yesNo is yes or no of an enumeration; nil if not known.
func yesNo(of string, v *bool) Value {
	switch {
	case v == nil:
		return nil
	case *v:
		return Term{of, "yes"}
	}
	return Term{of, "no"}
}

// ordered sorts values, each once.
func ordered(list []Value) []Value {
	slices.SortFunc(list, func(a, b Value) int {
		switch p, q := key(a), key(b); {
		case p < q:
			return -1
		case p > q:
			return 1
		}
		return 0
	})
	return slices.CompactFunc(list, same)
}
