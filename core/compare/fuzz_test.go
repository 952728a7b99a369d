package compare_test

import (
	"os"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/jobfile"
)

// FuzzCompare: whatever a file that is taken says, any two of its setups can be compared
// and the ledger written.
func FuzzCompare(f *testing.F) {
	data, err := os.ReadFile("../jobfile/testdata/visit.nowthen.json")
	require.NoError(f, err)
	f.Add(data)
	f.Add([]byte(`{"format":"nowthen-job","version":1,"job":{"number":"1"},"computers":[{"id":"c"}],"drives":[{"id":"d","kind":"hybrid"}],"plan":{},
"spread":{"timed":{"within":0,"between":0,"weight":5}},"tests":[{"id":"t","kind":"timed","name":"t","unit":"s","better":"lower","per_week":7},{"id":"n","kind":"note","name":"n","unit":"W","better":"lower"},
{"id":"k","kind":"drive","what":"scattered-read","name":"k","unit":"IOPS","better":"higher"}],
"setups":[{"id":"a","role":"then","computer":"c","drive":"d"},{"id":"b","role":"now","computer":"c","drive":"d"}],"sittings":[{"id":"s","setup":"a"},{"id":"u","setup":"b","conditions":{"busy":[],"fill_pct":3}}],
"runs":[{"id":"1","test":"t","sitting":"s","value":1e-300,"method":"typed","given":"1 h","u":99},{"id":"2","test":"t","sitting":"u","value":172800,"method":"video"},
{"id":"3","test":"n","sitting":"s","value":-1,"method":"typed"},{"id":"4","test":"n","sitting":"u","value":2,"method":"typed","bound":"below"},
{"id":"5","test":"k","sitting":"s","value":3,"method":"automatic","half_width_pct":9000,"repeat":true},{"id":"6","test":"k","sitting":"u","value":3,"method":"automatic","placement":{"from_pct":1,"to_pct":2}}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		j, err := jobfile.Read("x", data)
		if err != nil {
			return
		}
		for _, a := range j.Setups {
			for _, b := range j.Setups {
				_, err := json.Marshal(compare.Compare(j, a.ID, b.ID, compare.DefaultOptions))
				require.NoError(t, err)
			}
		}
	})
}
