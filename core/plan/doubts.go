package plan

import (
	"math"

	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
)

// Doubt is something measured on a setup that cannot be what it seems, in words: it can be fixed while the setup is
// there.
type Doubt struct {
	Setup string `json:"setup"`
	What  string `json:"what"`
}

// sizeSlack is by how much two sizes of the same drive may differ: people round them.
const sizeSlack = 0.1

// Doubts are measurements on a setup that can't be of its drive: faster than a disk's arm, or of a drive of
// another size.
func (st *Standing) Doubts(setup *job.Setup) []Doubt {
	doubts := []Doubt{}
	d := st.Drive(setup.Drive)
	if d == nil {
		return doubts
	}
	say := func(key string, values message.Values) {
		doubts = append(doubts, Doubt{setup.ID, message.English.Say(key, values)})
	}
	for i := range st.Tests {
		t := &st.Tests[i]
		if st.index == nil || d.Kind != job.HDD || setup.CacheDrive != "" || !t.ScatteredRead() || t.Unit != "IOPS" {
			continue
		}
		if most := fastest(st.index.Side(t.ID, setup.ID)); most > fairness.ArmReads {
			say("doubt.too-fast", message.Values{"Test": t.Name, "Reads": math.Round(most)})
		}
	}
	for _, s := range st.SittingsOn(setup.ID) {
		if w := s.Where; w != nil && w.CapacityBytes > 0 && d.CapacityBytes > 0 &&
			math.Abs(float64(w.CapacityBytes)/float64(d.CapacityBytes)-1) > sizeSlack {
			say("doubt.other-size", message.Values{"Measured": gigabytes(w.CapacityBytes),
				"Noted": gigabytes(d.CapacityBytes)})
			break
		}
	}
	return doubts
}

func gigabytes(n int64) float64 { return math.Round(float64(n) / 1e9) }

// fastest is the highest value of runs, 0 where there are none.
func fastest(runs []*job.Run) (most float64) {
	for _, r := range runs {
		most = max(most, r.Value)
	}
	return most
}
