package job

import (
	"github.com/go-json-experiment/json/jsontext"
)

// Forms of drives and of the places that take them.
const (
	Form35   = "3.5-inch"
	Form25   = "2.5-inch"
	FormM2   = "m.2"
	FormMini = "msata"
	FormCard = "card" // in a slot for extension cards
)

// Forms are all of them.
var Forms = []string{Form35, Form25, FormM2, FormMini, FormCard}

// Shape is what a drive is like to fit in. What is not known is empty or zero.
type Shape struct {
	Form     string  `json:"form,omitzero"`
	HeightMM float64 `json:"height_mm,omitzero"` // of a 2.5-inch one, or with its heat sink
	LengthMM float64 `json:"length_mm,omitzero"` // of a card such as M.2
	Key      string  `json:"key,omitzero"`       // B, M or B+M, of M.2

	Unknown jsontext.Value `json:",embed"`
}
