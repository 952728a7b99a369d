package words

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/fairness"
)

func TestEveryRuleHasATitle(t *testing.T) {
	for _, rule := range fairness.Rules() {
		assert.NotEqual(t, rule, Title(rule))
	}
	assert.Len(t, titles, len(fairness.Rules()), "a title of no rule")
}
