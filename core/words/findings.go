// Package words says what a figure, a verdict and a finding are called. Each
// wording stands here once, so that ledger, report and command line say the same.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package words

// Title says in a few words what a rule is about, for technician and customer.
func (in *Language) Title(rule string) string {
	if key := "rule." + rule; in.Has(key) {
		return in.Say(key)
	}
	return rule
}
