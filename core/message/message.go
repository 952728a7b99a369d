// Package message holds the program's texts by key: catalogues of messages with named values
// and plurals, one file per language. What customers read is in every language; what only
// technicians read is English, in a separate file.
//
// Plurals follow CLDR. Values are inserted by name, without a template language: text/template
// keeps the linker from removing methods, and the probe would grow by half. A text for
// technicians that is used in one place, such as a refusal, is written there.
package message

import (
	"embed"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
)

//go:embed catalogue/*.json
var catalogues embed.FS

// Language formats messages in a language. Technicians read English; customers read the language of the report.
// Another language is another file of messages.
type Language struct {
	Tag      string // as in BCP 47
	decimal  string
	tag      language.Tag
	messages map[string]forms
}

// forms are a message's, by the plural's form; one that does not count has the form "other" alone.
type forms map[plural.Form]string

// formOf are the plural's forms as catalogues name them.
var formOf = map[string]plural.Form{"zero": plural.Zero, "one": plural.One, "two": plural.Two, "few": plural.Few,
	"many": plural.Many, "other": plural.Other}

// UnmarshalJSON takes a text, or an object with one for each form.
func (f *forms) UnmarshalJSON(b []byte) error {
	var only string
	if json.Unmarshal(b, &only) == nil {
		*f = forms{plural.Other: only}
		return nil
	}
	var each map[string]string
	if err := json.Unmarshal(b, &each); err != nil {
		return err
	}
	*f = forms{}
	for name, text := range each {
		form, ok := formOf[name]
		if !ok {
			return fmt.Errorf("%q is no form of a plural", name)
		}
		(*f)[form] = text
	}
	if _, ok := (*f)[plural.Other]; !ok {
		return fmt.Errorf("a message with forms needs %q", "other")
	}
	return nil
}

// technicians is the file of the messages that only technicians read.
const technicians = "catalogue/technician.en.json"

// Languages that exist.
var (
	English = open("en", ".")
	German  = open("de", ",")
)

// In returns the language with a tag.
func In(tag string) (*Language, error) {
	for _, in := range []*Language{English, German} {
		if in.Tag == tag {
			return in, nil
		}
	}
	return nil, fmt.Errorf("there is no language %q; there are en, de", tag)
}

// open reads a catalogue, which is part of the program: an unreadable one is a bug that tests find.
func open(tag, decimal string) *Language {
	in := &Language{Tag: tag, decimal: decimal, tag: language.MustParse(tag), messages: map[string]forms{}}
	files := []string{"catalogue/" + tag + ".json"}
	if tag == "en" { // what the technician reads is English
		files = append(files, technicians)
	}
	for _, name := range files {
		text, err := catalogues.ReadFile(name)
		if err != nil {
			panic("message: " + err.Error())
		}
		if err := json.Unmarshal(text, &in.messages); err != nil {
			panic("message: " + name + ": " + err.Error())
		}
	}
	return in
}

// Values fill a message, by the names in it.
type Values map[string]any

// Say returns the message with that key. A value "Count" selects singular or plural. A missing key is returned
// as it is.
func (in *Language) Say(key string, values ...Values) string {
	message, ok := in.messages[key]
	if !ok {
		return key
	}
	all := Values{}
	for _, v := range values {
		maps.Copy(all, v)
	}
	form := plural.Other
	if n, ok := all["Count"].(int); ok {
		form = plural.Cardinal.MatchPlural(in.tag, max(n, -n), 0, 0, 0, 0)
	}
	text, ok := message[form]
	if !ok {
		text = message[plural.Other]
	}
	return placeholder.ReplaceAllStringFunc(text, func(hole string) string {
		part := placeholder.FindStringSubmatch(hole)
		value, ok := all[part[2]]
		if !ok {
			return "<no value>"
		}
		if part[1] != "" {
			return fmt.Sprintf(part[1], value)
		}
		return fmt.Sprint(value)
	})
}

// placeholder is where a value goes, as it is or in a form of its own: {{.Name}}, {{printf "%q" .Name}}.
var placeholder = regexp.MustCompile(`{{(?:printf "([^"]*)" )?\.(\w+)}}`)

// Has reports whether there is a message with that key.
func (in *Language) Has(key string) bool {
	_, ok := in.messages[key]
	return ok
}

// Term translates an English term in the data, such as a test's name or a condition, if the catalogue has it
// under a prefix; typed text stays unchanged. of is the end of the key; its English must be what is in the
// data.
func (in *Language) Term(prefix, of, english string) string {
	if key := prefix + "." + of; English.Has(key) && English.Say(key) == english {
		return in.Say(key)
	}
	return english
}

// Number writes an English figure with the language's decimal sign.
func (in *Language) Number(figure string) string { return strings.Replace(figure, ".", in.decimal, 1) }

// List joins what belongs together: "a, b and c".
func (in *Language) List(parts []string) string {
	switch n := len(parts); {
	case n == 0:
		return ""
	case n == 1:
		return parts[0]
	default:
		return strings.Join(parts[:n-1], ", ") + in.Say("report.and") + parts[n-1]
	}
}

// Keys are those of a language's catalogue, in order.
func Keys(tag string) ([]string, error) {
	text, err := catalogues.ReadFile("catalogue/" + tag + ".json")
	if err != nil {
		return nil, err
	}
	var all map[string]any
	if err := json.Unmarshal(text, &all); err != nil {
		return nil, err
	}
	list := make([]string, 0, len(all))
	for k := range all {
		list = append(list, k)
	}
	slices.Sort(list)
	return list, nil
}
