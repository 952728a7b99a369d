package compare

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat/distuv"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// The second implementation of contrasts, from the text of the calculations (sections 1 to 4 and 16) and the raw runs: it
// shares nothing with the first but which lines a finding blocks.

type part struct{ c, nu float64 }

// factorOf is a side by hand: its centre and the components of its uncertainty on the ln scale.
type handSide struct {
	centre  float64
	w, b, i part
}

func handMedian(v []float64) float64 {
	v = slices.Sorted(slices.Values(v))
	return (v[(len(v)-1)/2] + v[len(v)/2]) / 2
}

func handSideOf(j *job.Job, t *job.Test, setup string) (s handSide, ok bool) {
	prior := map[job.Kind][2]float64{job.Timed: {0.04, 0.02}, job.OnDrive: {0.02, 0.015}, job.OnFiles: {0.06, 0.025}}[t.Kind]
	const weight = 6
	by := map[string][]float64{}
	var values, u []float64
	each := true // the error is new with each run
	for _, r := range j.Runs {
		if r.Test == t.ID && j.Sitting(r.Sitting).Setup == setup && r.Kept() {
			by[r.Sitting] = append(by[r.Sitting], math.Log(r.Value))
			values = append(values, r.Value)
			u = append(u, *r.U/r.Value)
			each = each && (r.Method == job.Stopwatch || t.Kind == job.OnDrive)
		}
	}
	n, sittings := float64(len(values)), float64(len(by))
	if n == 0 {
		return s, false
	}
	s.centre = handMedian(values)
	ss, spread, inverse := 0.0, 0.0, 0.0
	var means []float64
	for _, y := range by {
		m := 0.0
		for _, v := range y {
			m += v / float64(len(y))
		}
		for _, v := range y {
			ss += (v - m) * (v - m)
		}
		means = append(means, m)
		spread += float64(len(y)*len(y)) / (n * n)
		inverse += 1 / float64(len(y)) / sittings
	}
	within := (weight*prior[0]*prior[0] + ss) / (weight + n - sittings)
	between, nuB := prior[1]*prior[1], float64(weight)
	if sittings > 1 {
		m, v := 0.0, 0.0
		for _, x := range means {
			m += x / sittings
		}
		for _, x := range means {
			v += (x - m) * (x - m) / (sittings - 1)
		}
		between = (weight*prior[1]*prior[1] + (sittings-1)*max(0, v-within*inverse)) / (weight + sittings - 1)
		nuB = weight + sittings - 1
	}
	kappa := []float64{0, 1, 1, 1.346, 1.193, 1.434, 1.288, 1.473, 1.346, 1.495}[int(n)]
	instrument := math.Pow(handMedian(u), 2)
	if each {
		instrument /= n
	}
	s.w, s.b, s.i = part{kappa * within / n, weight + n - sittings}, part{between * spread, nuB}, part{instrument, math.Inf(1)}
	return s, true
}

// handT is the one t to which a sum of components comes close (Patil 1965).
func handT(parts []part) (sigma, f float64) {
	a, q := 0.0, 0.0
	for _, p := range parts {
		if math.IsInf(p.nu, 1) {
			a += p.c
			continue
		}
		a += p.c * p.nu / (p.nu - 2)
		q += math.Pow(p.c*p.nu/(p.nu-2), 2) / (p.nu - 4)
	}
	f = 4 + a*a/q
	return math.Sqrt(a * (f - 2) / f), f
}

// handContrast is b against a over lines.
func handContrast(j *job.Job, a, b string, lines []*job.Test) (factor, low, high, p, week float64, ok bool) {
	var sum, shared float64
	var parts, between []part
	m, least := 0.0, math.Inf(1)
	seen := map[string]bool{}
	for _, t := range lines {
		then, ok1 := handSideOf(j, t, a)
		with, ok2 := handSideOf(j, t, b)
		if !ok1 || !ok2 {
			continue
		}
		m++
		ln := math.Log(then.centre / with.centre)
		if t.Better == job.Higher {
			ln = -ln
		}
		sum += ln
		parts = append(parts, then.w, then.i, with.w, with.i)
		between = []part{then.b, with.b}
		shared += math.Sqrt(then.b.c + with.b.c)
		least = min(least, then.b.nu, with.b.nu)
		if t.Unit == "s" && t.PerWeek > 0 && (t.Occasion == "" || !seen[t.Occasion]) {
			seen[t.Occasion] = true
			week += t.PerWeek * (then.centre - with.centre)
		}
	}
	if m == 0 {
		return 0, 0, 0, 0, 0, false
	}
	for i := range parts {
		parts[i].c /= m * m
	}
	if m > 1 { // a group of one line is that line
		between = []part{{math.Pow(shared/m, 2), least}}
	}
	sigma, f := handT(append(parts, between...))
	d := distuv.StudentsT{Sigma: 1, Nu: f}
	half := d.Quantile(0.975) * sigma
	mean := sum / m
	return math.Exp(mean), math.Exp(mean - half), math.Exp(mean + half), 2 * (1 - d.CDF(math.Abs(mean)/sigma)), week, true
}

// severalDrives is a made-up comparison of drives over tests of all groups, with runs in one session or two.
func severalDrives(rng *rand.Rand) (*job.Job, []string) {
	j := &job.Job{Head: job.Head{Number: "1", Kind: job.KindComparison}, Computers: []job.Computer{{ID: "c"}}}
	for i, what := range []string{"cold-start", "restart", "launch-first", "document-open", "game-save", "copy-own", "long-read",
		"long-write"} {
		if rng.IntN(4) == 0 {
			continue
		}
		t := job.Test{ID: fmt.Sprint("t", i), What: what, Name: what, Unit: "s", Better: job.Lower, Kind: job.Timed,
			PerWeek: float64(rng.IntN(20)), Occasion: map[string]string{"cold-start": "start", "restart": "start"}[what]}
		switch what {
		case "copy-own":
			t.Kind = job.OnFiles
		case "long-read", "long-write":
			t.Kind, t.Unit, t.Better, t.PerWeek = job.OnDrive, "MB/s", job.Higher, 0
		}
		j.Tests = append(j.Tests, t)
	}
	var setups []string
	for d := range 2 + rng.IntN(3) {
		id := fmt.Sprint("d", d)
		setups = append(setups, id)
		j.Drives = append(j.Drives, job.Drive{ID: id, DriveLabel: job.DriveLabel{Kind: job.SataSSD}})
		j.Setups = append(j.Setups, job.Setup{ID: id, Role: job.Trial, Computer: "c", Drive: id})
		for k := range 1 + rng.IntN(2) {
			sitting := fmt.Sprint(id, "s", k)
			j.Sittings = append(j.Sittings, job.Sitting{ID: sitting, Setup: id})
			for _, t := range j.Tests {
				u, method := 0.2, job.Stopwatch
				if t.Kind == job.OnDrive {
					u, method = 4, job.Typed
				}
				centre := 20 * math.Exp(0.3*rng.NormFloat64())
				if t.Kind == job.OnDrive {
					centre = 400 * math.Exp(0.05*rng.NormFloat64())
				}
				for n := range rng.IntN(4) {
					v := centre * math.Exp(0.03*rng.NormFloat64())
					j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(sitting, t.ID, n), Test: t.ID, Sitting: sitting, Value: v,
						Method: method, U: &u})
				}
			}
		}
	}
	return j, setups
}

// Contrasts equal the second implementation over generated jobs.
func TestContrastsEqualTheSecondImplementation(t *testing.T) {
	rng := rand.New(rand.NewPCG(16, 300))
	seen := 0
	for n := range 300 {
		j, setups := severalDrives(rng)
		x := j.Indexed()
		type want struct {
			Contrast
			p float64
		}
		var all []want
		for i := range setups {
			for k := i + 1; k < len(setups); k++ {
				blocked := map[string]bool{}
				for _, ln := range Indexed(x, setups[i], setups[k], DefaultOptions).Lines {
					blocked[ln.Test] = ln.Verdict == NotComparable
				}
				for _, group := range []string{"starts", "programs", "games", "files", "drive"} {
					var lines []*job.Test
					for q := range j.Tests {
						if s := &j.Tests[q]; catalogue.GroupOf(s) == group && !blocked[s.ID] {
							lines = append(lines, s)
						}
					}
					factor, low, high, p, week, ok := handContrast(j, setups[i], setups[k], lines)
					if !ok {
						continue
					}
					v := NotCertain
					switch {
					case low > 1:
						v = Faster
					case high < 1:
						v = Slower
					case low >= 1/1.1 && high <= 1.1:
						v = Equal
					}
					c := Contrast{A: setups[i], B: setups[k], Group: group, Factor: &factor, Low: &low, High: &high, Verdict: v}
					if week != 0 {
						c.SecondsPerWeek = &week
					}
					all = append(all, want{c, p})
				}
			}
		}
		order := slices.Clone(all)
		slices.SortStableFunc(order, func(a, b want) int { return int(math.Copysign(1, a.p-b.p)) })
		holds := map[string]bool{}
		for rank, w := range order {
			if w.p > 0.05/float64(len(order)-rank) {
				break
			}
			holds[w.A+w.B+w.Group] = w.Verdict == Faster || w.Verdict == Slower
		}
		got := Contrasts(x, setups, DefaultOptions)
		require.Len(t, got, len(all), "job %d", n)
		for i, w := range all {
			g := got[i]
			at := fmt.Sprintf("job %d: %s against %s, %s", n, g.B, g.A, g.Group)
			require.Equal(t, []string{w.A, w.B, w.Group}, []string{g.A, g.B, g.Group})
			assert.InEpsilon(t, *w.Factor, *g.Factor, 1e-9, at)
			assert.InEpsilon(t, *w.Low, *g.Low, 1e-3, at) // the ratios of medians are printed to three decimals
			assert.InEpsilon(t, *w.High, *g.High, 1e-3, at)
			near := func(a, b float64) bool { return math.Abs(a-b) < 2e-3 }
			if !near(*g.Low, 1) && !near(*g.High, 1) && !near(*g.Low, 1/1.1) && !near(*g.High, 1.1) {
				assert.Equal(t, w.Verdict, g.Verdict, at)
				seen++
			}
			if p := *g.P; math.Abs(p-w.p) > 1e-3 {
				assert.InDelta(t, w.p, p, 2e-3, at)
			}
			if w.p < 1e-4 || w.p > 0.05 { // far from where Holm decides
				assert.Equal(t, holds[w.A+w.B+w.Group], g.Holds, at)
			}
			if w.SecondsPerWeek != nil && g.SecondsPerWeek != nil {
				assert.InDelta(t, *w.SecondsPerWeek, *g.SecondsPerWeek, 1e-6, at)
			} else if w.SecondsPerWeek != nil {
				t.Errorf("%s: nothing is said of a week", at)
			}
		}
	}
	assert.Greater(t, seen, 2000)
}
