package job

import (
	"github.com/go-json-experiment/json/jsontext"
)

// Shape is the physical form of a drive. Unknown members are empty or zero.
type Shape struct {
	Form     Form    `json:"form,omitzero"`
	HeightMM float64 `json:"height_mm,omitzero"` // of a 2.5-inch one, or with its heat sink
	LengthMM float64 `json:"length_mm,omitzero"` // of a card such as M.2
	Key      string  `json:"key,omitzero"`       // B, M or B+M, of M.2

	Unknown jsontext.Value `json:",embed"`
}
