package sim

import (
	"context"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"time"

	"nowthen/core/drivetest"
)

// act is a stretch of a start or a launch: processor time, then scattered and
// long reads.
type act struct {
	phase     string
	processor float64 // s
	scattered int     // reads of 16 KiB at random places, one at a time
	longMiB   int     // MiB in one piece
	typing    float64 // s of a person typing, on average
}

// scripts are what the simulated computer does for a test. A faster drive shortens the drive's part, not the
// processor's or the person's.
var scripts = map[string][]act{
	"cold-start": {
		{phase: "login", processor: 7.2, scattered: 2300, longMiB: 420},
		{phase: "typing", typing: 6.5},
		{phase: "desktop", processor: 6.1, scattered: 2900, longMiB: 260},
	},
	"restart": {
		{phase: "down", processor: 2.5, scattered: 150},
		{phase: "login", processor: 6.8, scattered: 2200, longMiB: 400},
		{phase: "typing", typing: 6},
		{phase: "desktop", processor: 5.9, scattered: 2700, longMiB: 250},
	},
	// The first sign comes from the system's services: nobody signs in.
	"restart-watch":  {{processor: 11.4, scattered: 3100, longMiB: 520}},
	"start-recorded": {{processor: 8.9, scattered: 2950, longMiB: 500}},
	"start-browser":  {{processor: 15.6, scattered: 5600, longMiB: 720}},
	"shut-down":      {{processor: 2.8, scattered: 180, longMiB: 40}},
	"wake":           {{processor: 1.4, scattered: 30}},
	"resume":         {{processor: 4.2, scattered: 200, longMiB: 1600}},
	"launch-first":   {{processor: 1.3, scattered: 850, longMiB: 70}},
	"launch-again":   {{processor: 0.7, scattered: 15}},
	"document-open":  {{processor: 1.6, scattered: 320, longMiB: 180}},
	"browser-pages":  {{processor: 4.1, scattered: 1100, longMiB: 60}},
	"install":        {{processor: 18, scattered: 1800, longMiB: 350}},
	"export":         {{processor: 64, scattered: 150, longMiB: 420}},
	"game-menu": {{phase: "logos", processor: 2.2, scattered: 700, longMiB: 220}, {phase: "titles", typing: 9},
		{phase: "menu", processor: 3.1, scattered: 500, longMiB: 480}},
	"game-continue": {{processor: 6.4, scattered: 1300, longMiB: 900}},
	"game-earlier":  {{processor: 6.1, scattered: 1350, longMiB: 860}},
	"game-save":     {{processor: 6.3, scattered: 1320, longMiB: 880}},
	"start-unlock": {
		{phase: "unlock", processor: 3.1, scattered: 60, longMiB: 30},
		{phase: "unlocking", typing: 7},
		{phase: "login", processor: 7, scattered: 2250, longMiB: 400},
		{phase: "typing", typing: 6},
		{phase: "desktop", processor: 6.1, scattered: 2900, longMiB: 260},
	},
	"guest-start": {
		{phase: "login", processor: 8.5, scattered: 1400, longMiB: 520},
		{phase: "typing", typing: 5},
		{phase: "desktop", processor: 5.2, scattered: 900, longMiB: 180},
	},
	"open-tool":       {{processor: 0.5, scattered: 70}},
	"import-material": {{processor: 21, scattered: 420, longMiB: 2100}},
	"copy-own":        {{processor: 3, scattered: 900, longMiB: 1700}},
	"full-backup":     {{processor: 35, scattered: 2500, longMiB: 6200}},
	"game-level":      {{processor: 4.4, scattered: 800, longMiB: 620}},
}

// Resolution of a simulated timing, s: what a camera would give.
const Resolution = 0.01

// Perform lets the simulated computer do a test of that kind on a drive and
// returns the seconds of its phases. The first start after a swap takes longer,
// because the system meets a drive it does not know. A caching drive has learned from the earlier runs of the
// test.
func Perform(d *Drive, what string, firstAfterSwap bool, earlier int) (map[string]float64, error) {
	script, ok := scripts[what]
	if !ok {
		return nil, fmt.Errorf("the simulated computer cannot do %q", what)
	}
	if d.spec.cache != nil {
		for range earlier {
			if _, err := perform(d, what, script, false); err != nil {
				return nil, err
			}
		}
	}
	return perform(d, what, script, firstAfterSwap)
}

func perform(d *Drive, what string, script []act, firstAfterSwap bool) (map[string]float64, error) {
	reach := min(64<<30, d.spec.Label.CapacityBytes/2) // the stretch of the drive over which the system lies
	f, err := d.Create(context.Background(), reach)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	q := f.Queue(1)
	defer q.Close()
	places := newPlaces(what) // the same test reads the same places each time
	phases := map[string]float64{}
	for _, a := range script {
		from := d.Now()
		cpu := a.processor * (1 + 0.02*d.rng.NormFloat64())
		if firstAfterSwap {
			cpu *= 1.6
		}
		d.Work(seconds(cpu + max(0, a.typing*(1+0.15*d.rng.NormFloat64()))))
		read := func(n, at int64) {
			q.Start(&drivetest.Request{Data: scratch[:n], Offset: at})
			q.Wait()
		}
		for range a.scattered {
			read(16<<10, places.Int64N(reach/(16<<10))*(16<<10))
		}
		at := places.Int64N(reach/2) &^ 4095
		for i := range a.longMiB {
			read(1<<20, at+int64(i)<<20)
		}
		phases[a.phase] = (d.Now() - from).Round(time.Duration(Resolution * float64(time.Second))).Seconds()
	}
	return phases, nil
}

// scratch is the buffer of simulated reads; nothing uses its content.
var scratch = make([]byte, 1<<20)

// newPlaces draws places that are the same every time for a name.
func newPlaces(name string) *rand.Rand {
	h := fnv.New64a()
	_, _ = h.Write([]byte(name)) // never fails (hash.Hash)
	return rand.New(rand.NewPCG(h.Sum64(), 1))
}
