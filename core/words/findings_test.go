package words

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/fairness"
	"nowthen/core/message"
)

func TestEveryRuleHasATitle(t *testing.T) {
	for _, rule := range fairness.Rules() {
		assert.NotEqual(t, rule, Title(rule))
		assert.True(t, message.English.Has("remedy."+rule), "%s has no remedy", rule)
	}
	all, err := message.Keys("en")
	require.NoError(t, err)
	for _, key := range all {
		if rule, ok := strings.CutPrefix(key, "rule."); ok {
			assert.Contains(t, fairness.Rules(), rule, "a title of no rule")
		}
	}
}
