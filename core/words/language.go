package words

import "nowthen/core/message"

// Language says figures, verdicts and findings in a language, over its messages.
type Language struct{ *message.Language }

// Languages that there are.
var (
	English = &Language{message.English}
	German  = &Language{message.German}
)

// In returns the language with a tag.
func In(tag string) (*Language, error) {
	in, err := message.In(tag)
	if err != nil {
		return nil, err
	}
	return &Language{in}, nil
}
