package words

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/fairness"
)

func TestEveryRuleHasATitle(t *testing.T) {
	for _, rule := range fairness.Rules() {
		assert.NotEqual(t, rule, Title(rule))
	}
	all, err := keys("en")
	require.NoError(t, err)
	for _, key := range all {
		if rule, ok := strings.CutPrefix(key, "rule."); ok {
			assert.Contains(t, fairness.Rules(), rule, "a title of no rule")
		}
	}
}
