package sim

import (
	"context"
	"fmt"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// specs are the simulated drives. All names are made up.
var specs = []Spec{
	{
		Name: "worn-disk", Title: "an old hard disk, worn",
		Label: job.Drive{Kind: job.HDD, Maker: "Halden", Model: "Turnstone 500", CapacityBytes: 500_107_862_016, RPM: 5400, Interface: "SATA 3 Gb/s",
			Rated: &job.Rated{ReadMBs: 110, WriteMBs: 105, MaxTempC: 60}, Simulated: "worn-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 300, CapableMBs: 600},
		FillPct:  61, TempC: 38,
		disk: &diskSpec{rpm: 5400, outerMBs: 112, innerMBs: 52, shortSeek: 0.0015, stroke: 0.021, overhead: 0.0006, stumble: 0.03},
	},
	{
		Name: "fresh-ssd", Title: "a new SATA SSD",
		Label: job.Drive{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1 1 TB", CapacityBytes: 1_000_204_886_016, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 550, WriteMBs: 500, MaxTempC: 70, EnduranceTB: 400}, Price: &job.Price{Amount: "64.00", Currency: "EUR"}, Simulated: "fresh-ssd"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  31, TempC: 33,
		flash: &flashSpec{channels: 16, readLat: 86e-6, writeLat: 42e-6, channelMBs: 90, linkMBs: 548, tail: 0.01, tailLat: 0.9e-3, flushLat: 2.5e-3},
	},
	{
		Name: "office-disk", Title: "a quicker hard disk",
		Label: job.Drive{Kind: job.HDD, Maker: "Halden", Model: "Curlew 1000", CapacityBytes: 1_000_204_886_016, RPM: 7200, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 160, WriteMBs: 155, MaxTempC: 60}, Simulated: "office-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  44, TempC: 36,
		disk: &diskSpec{rpm: 7200, outerMBs: 162, innerMBs: 78, shortSeek: 0.001, stroke: 0.016, overhead: 0.0004, stumble: 0.004},
	},
	{
		Name: "roomy-ssd", Title: "a roomy SATA SSD",
		Label: job.Drive{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S2 2 TB", CapacityBytes: 2_000_398_934_016, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 560, WriteMBs: 520, MaxTempC: 70, EnduranceTB: 900}, Price: &job.Price{Amount: "119.00", Currency: "EUR"}, Simulated: "roomy-ssd"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  22, TempC: 32,
		flash: &flashSpec{channels: 16, readLat: 74e-6, writeLat: 38e-6, channelMBs: 100, linkMBs: 553, tail: 0.008, tailLat: 0.7e-3, flushLat: 2e-3},
	},
}

// Computer is a simulated computer: what stands on its case, the drive that is
// in it and the one that goes in.
type Computer struct {
	Label    job.Computer
	Old, New string // names of simulated drives
}

// Computers are the simulated computers by name. All names are made up.
var Computers = map[string]Computer{
	"laptop": {Old: "worn-disk", New: "fresh-ssd", Label: job.Computer{Maker: "Larkfield", Model: "Hearth 15", Processor: "2 cores, 2.3 GHz",
		MemoryBytes: 8 << 30, System: "desktop system, version 10", Simulated: "laptop"}},
	"office": {Old: "office-disk", New: "roomy-ssd", Label: job.Computer{Maker: "Ostrand", Model: "Desk Tower 4", Processor: "4 cores, 3.2 GHz",
		MemoryBytes: 16 << 30, System: "desktop system, version 11", Simulated: "office"}},
}

// act is a stretch of a start or a launch: processor time, then scattered and
// long reads.
type act struct {
	phase     string
	processor float64 // s
	scattered int     // reads of 16 KiB at random places, one at a time
	longMiB   int     // MiB in one piece
	typing    float64 // s of a person typing, on average
}

// scripts say what the simulated computer does for a test. The drive's part
// shrinks with a faster drive, the processor's and the person's do not.
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
	"shut-down":     {{processor: 2.8, scattered: 180, longMiB: 40}},
	"wake":          {{processor: 1.4, scattered: 30}},
	"resume":        {{processor: 4.2, scattered: 200, longMiB: 1600}},
	"launch-first":  {{processor: 1.3, scattered: 850, longMiB: 70}},
	"launch-again":  {{processor: 0.7, scattered: 15}},
	"document-open": {{processor: 1.6, scattered: 320, longMiB: 180}},
	"browser-pages": {{processor: 4.1, scattered: 1100, longMiB: 60}},
	"install":       {{processor: 18, scattered: 1800, longMiB: 350}},
	"export":        {{processor: 64, scattered: 150, longMiB: 420}},
	"game-menu":     {{phase: "logos", processor: 2.2, scattered: 700, longMiB: 220}, {phase: "titles", typing: 9}, {phase: "menu", processor: 3.1, scattered: 500, longMiB: 480}},
	"game-continue": {{processor: 6.4, scattered: 1300, longMiB: 900}},
	"game-earlier":  {{processor: 6.1, scattered: 1350, longMiB: 860}},
	"game-level":    {{processor: 4.4, scattered: 800, longMiB: 620}},
	"copy-large":    {{processor: 0.6, longMiB: 4096}},
	"copy-small":    {{processor: 3.5, scattered: 4200}},
	"read-folder":   {{processor: 1.2, scattered: 1500, longMiB: 640}},
	"processor":     {{processor: 11}},
}

// Resolution of a simulated timing, s: what a camera would give.
const Resolution = 0.01

// Perform lets the simulated computer do a test of that kind on a drive and
// returns the seconds of its phases. The first start after a swap takes longer,
// because the system meets a drive it does not know.
func Perform(d *Drive, what string, firstAfterSwap bool) (map[string]float64, error) {
	script, ok := scripts[what]
	if !ok {
		return nil, fmt.Errorf("the simulated computer cannot do %q", what)
	}
	const reach = 64 << 30 // the stretch of the drive over which the system lies
	f, err := d.Create(context.Background(), reach)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	q := f.Queue(1)
	defer q.Close()
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
			read(16<<10, d.rng.Int64N(reach/(16<<10))*(16<<10))
		}
		at := d.rng.Int64N(reach/2) &^ 4095
		for i := range a.longMiB {
			read(1<<20, at+int64(i)<<20)
		}
		phases[a.phase] = (d.Now() - from).Round(time.Duration(Resolution * float64(time.Second))).Seconds()
	}
	return phases, nil
}

// scratch is what simulated reads read into; nothing looks at it.
var scratch = make([]byte, 1<<20)
