package words

import "nowthen/core/job"

// Reason is why a computer came in: in the customer's own words where there are some.
func (in *Language) Reason(r job.Reason) string {
	if r.Words != "" {
		return r.Words
	}
	return in.Say("why." + string(r.What))
}
