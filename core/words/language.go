package words

import (
	"nowthen/core/job"
	"nowthen/core/message"
)

// Language says figures, verdicts and findings in a language, over its messages.
type Language struct{ *message.Language }

// Languages that exist.
var (
	English = &Language{message.English}
	German  = &Language{message.German}
)

// formerNames are what the catalogue called some of its tests before, by what they are: jobs of that time keep them.
var formerNames = map[string]string{
	"copy-own":           "Copy a folder of the customer's " + "own, by hand",
	"processor":          "Processor work, which a drive " + "must not change",
	job.ScatteredReadOwn: "Scattered small reads of the customer's " + "own files",
	"long-read-existing": "Long read of files that are there",
}

// TestName is a test's name: the catalogue's own in the language, what somebody named as it is.
func (in *Language) TestName(what, name string) string {
	if former, ok := formerNames[what]; ok && name == former {
		return in.Say("test." + what)
	}
	return in.Term("test", what, name)
}

// In returns the language with a tag.
func In(tag string) (*Language, error) {
	in, err := message.In(tag)
	if err != nil {
		return nil, err
	}
	return &Language{in}, nil
}
