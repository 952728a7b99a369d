package message

import (
	"encoding/json"
	"maps"
	"regexp"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var inBraces = regexp.MustCompile(`{{\.(\w+)}}`)

// placeholders are the values that a message asks for, also written in a form of their own.
var placeholders = regexp.MustCompile(`{{(?:printf [^ ]+ )?\.(\w+)}}`)

// messages are all of a catalogue, each plural form apart.
func messages(t *testing.T, tag string) map[string]string {
	t.Helper()
	text, err := catalogues.ReadFile("catalogue/" + tag + ".json")
	require.NoError(t, err)
	var all map[string]any
	require.NoError(t, json.Unmarshal(text, &all))
	flat := map[string]string{}
	for key, v := range all {
		switch v := v.(type) {
		case string:
			flat[key] = v
		case map[string]any:
			for form, text := range v {
				flat[key+"/"+form] = text.(string)
			}
		}
	}
	return flat
}

// Everything in braces is a valid placeholder, in each catalogue.
func TestEveryPlaceholderIsRead(t *testing.T) {
	for _, tag := range []string{"en", "de", "technician.en"} {
		for key, text := range messages(t, tag) {
			assert.NotContains(t, placeholder.ReplaceAllString(text, ""), "{{", "%s: %s", tag, key)
		}
	}
}

// Every language has all messages of the others, with the same values.
func TestTheCataloguesSayTheSame(t *testing.T) {
	en, de := messages(t, "en"), messages(t, "de")
	assert.Equal(t, slices.Sorted(maps.Keys(en)), slices.Sorted(maps.Keys(de)))
	fills := func(s string) []string {
		var list []string
		for _, m := range inBraces.FindAllStringSubmatch(s, -1) {
			list = append(list, m[1])
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	for key, text := range en {
		assert.Equal(t, fills(text), fills(de[key]), key)
		assert.NotEmpty(t, de[key], key)
	}
	for _, in := range []*Language{English, German} {
		all, err := Keys(in.Tag)
		require.NoError(t, err)
		for _, key := range all {
			assert.True(t, in.Has(key), "%s: %s", in.Tag, key)
			values := Values{"Count": 3}
			for _, name := range fills(en[key] + en[key+"/other"]) {
				if name != "Count" {
					values[name] = "<" + name + ">"
				}
			}
			said := in.Say(key, values)
			assert.NotEqual(t, key, said)
			assert.NotContains(t, said, "no value", "%s: %s", in.Tag, key)
			assert.NotContains(t, said, "{{", "%s: %s asks for a value in a way that is not read", in.Tag, key)
		}
	}
	assert.Equal(t, "nothing.there", English.Say("nothing.there"))
	_, err := In("tlh")
	assert.ErrorContains(t, err, "en, de")
}
