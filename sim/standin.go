package sim

import (
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"math"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/core/round"
	"nowthen/core/stopwatch"
)

// StandIn is a whole simulated computer that joins a bench like a real one: with facts, adjustable conditions,
// and a fitted drive.
type StandIn struct {
	name string
	spec Computer

	mu     sync.Mutex
	fitted string // name of the drive that is in it
	opened uint64 // so often, which makes each round one of its own and repeatable
	power  job.Power
	busy   []job.Busy
	passes time.Time // since when an encryption pass runs; zero: none does
	beside bool      // the new drive hangs on it by USB
	grown  bool      // its system has the room of the new drive; before, it lies as it was cloned
}

// StandIns are the names that [NewStandIn] takes.
func StandIns() []string { return slices.Sorted(maps.Keys(Computers)) }

// NewStandIn returns a simulated computer with its old drive in it.
func NewStandIn(name string) (*StandIn, error) {
	c, ok := Computers[name]
	if !ok {
		return nil, fmt.Errorf("there is no simulated computer %q; there are %s", name, strings.Join(StandIns(), ", "))
	}
	return &StandIn{name: name, spec: c, fitted: c.Old, power: job.Mains, busy: []job.Busy{}}, nil
}

// Identity is unique to the name.
func (s *StandIn) Identity() string { return hardware.Digest("simulated", s.name, "computer") }

// Simulated is its name.
func (s *StandIn) Simulated() string { return s.name }

// Memory is its fitted drive, for the next start.
func (s *StandIn) Memory() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.grown {
		return s.fitted + " " + order.Grow
	}
	return s.fitted
}

// Remember puts the drive of an earlier start into it.
func (s *StandIn) Remember(memory string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	drive, _, grown := strings.Cut(memory, " ")
	s.grown = grown
	if drive == s.spec.Old || drive == s.spec.New {
		s.fitted = drive
	}
}

// Do performs a technician's action on it.
func (s *StandIn) Do(what string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	switch what {
	case order.Attach:
		if s.fitted == s.spec.New {
			return errors.New("the new drive is in it already")
		}
		s.beside = true
	case order.Swap:
		s.beside = false
		if s.fitted == s.spec.Old {
			s.fitted = s.spec.New
		} else {
			s.fitted = s.spec.Old
		}
	case order.OnBattery:
		s.power = job.Battery
	case order.OnMains:
		s.power = job.Mains
	case order.Download:
		s.busy = []job.Busy{"download"}
	case order.Quiet:
		s.busy = []job.Busy{}
	case order.Encrypting:
		s.passes = time.Now()
	case order.Encrypted:
		s.passes = time.Time{}
	case order.Grow:
		s.grown = true
	default:
		return fmt.Errorf("a simulated computer cannot do %q", what)
	}
	return nil
}

// drive is the one that is fitted.
func (s *StandIn) drive() (*Spec, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	d, err := Open(s.fitted, 0)
	if err != nil {
		return nil, err
	}
	spec := d.Spec()
	return &spec, nil
}

// Parts of its system's drive, bytes; the system has what is left before the recovery.
const (
	bootBytes     = 512 << 20
	reservedBytes = 16 << 20
	recoveryBytes = 1 << 30
	alignBytes    = 1 << 20
)

// installed is when the system of each simulated computer was.
var installed = time.Date(2021, 5, 3, 9, 0, 0, 0, time.UTC)

// GPT types of partitions that a desktop system makes.
const (
	typeBoot     = "c12a7328-f81f-11d2-ba4b-00a0c93ec93b"
	typeReserved = "e3c9e316-0b5c-4db8-817d-f92df00215ae"
	typeData     = "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7"
	typeRecovery = "de94bba4-06d1-4d22-a16a-bfd50179d6ac"
)

// Facts are what its system would report.
func (s *StandIn) Facts(context.Context) *hardware.Facts {
	f := &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{},
		Absent: []hardware.Absence{}}
	c := s.spec.Label
	f.Computer = hardware.Computer{Maker: c.Maker, Model: c.Model, Processor: c.Processor, MemoryBytes: c.MemoryBytes,
		Graphics: c.Graphics}
	f.System = hardware.System{Name: c.System, Installed: installed}
	spec, err := s.drive()
	if err != nil {
		f.Lacks("drives", err.Error())
		return f
	}
	l := spec.Label
	trim, cached := spec.disk == nil, true
	d := s.labelled("disk0", spec)
	d.Trim, d.WriteCache = &trim, &cached
	attached, temp := spec.Attached, spec.TempC
	d.Attached, d.TemperatureC = &attached, &temp
	d.Link = linkOf(attached)
	if l.Rated != nil && l.Rated.MaxTempC > 0 {
		most := l.Rated.MaxTempC
		d.MaxTempC = &most
	}
	f.Drives = append(f.Drives, d)
	system, used := s.systemBytes(spec)
	at := int64(alignBytes)
	for i, p := range []hardware.Partition{
		{Type: typeBoot, Name: "start", SizeBytes: bootBytes, UsedBytes: 32 << 20},
		{Type: typeReserved, Name: "reserved", SizeBytes: reservedBytes},
		{Type: typeData, Name: "system", SizeBytes: system, UsedBytes: used},
		{Type: typeRecovery, Name: "recovery", SizeBytes: recoveryBytes, UsedBytes: 700 << 20},
	} {
		p.Drive, p.Number, p.StartBytes = d.ID, i+1, at
		at += p.SizeBytes
		f.Partitions = append(f.Partitions, p)
	}
	no := false
	f.Volumes = append(f.Volumes,
		hardware.Volume{Mount: "simulated", Drive: d.ID, Partition: 3, FileSystem: "simulated", SizeBytes: system,
			UsedBytes: used, System: true, Encrypted: &no})
	if fresh := s.besides(); fresh != nil {
		hangs := s.labelled("disk1", fresh)
		hangs.Attached = &job.Attached{Port: job.PortUSB, LinkMBs: 500, CapableMBs: 500}
		hangs.Link = linkOf(*hangs.Attached)
		f.Drives = append(f.Drives, hangs)
		size := fresh.Label.CapacityBytes - 2*alignBytes
		f.Partitions = append(f.Partitions,
			hardware.Partition{Drive: hangs.ID, Number: 1, Type: typeData, StartBytes: alignBytes, SizeBytes: size})
		f.Volumes = append(f.Volumes,
			hardware.Volume{Mount: besideMount, Drive: hangs.ID, Partition: 1, FileSystem: "simulated",
				SizeBytes: size})
	}
	f.System.StartMode = hardware.UEFI
	f.Driverless, f.Slots = []string{}, s.slots()
	f.Lacks("health", "a simulated drive has none")
	f.Starts = s.starts()
	return f
}

// slots are those of its board: one for an NVMe drive where that is what goes in.
func (s *StandIn) slots() []hardware.Slot {
	list := []hardware.Slot{}
	if d, err := Open(s.spec.New, 0); err == nil && d.Spec().Label.Kind == job.NVMe {
		s.mu.Lock()
		used := s.fitted == s.spec.New
		s.mu.Unlock()
		list = append(list, hardware.Slot{Name: "M2_1", Kind: hardware.SlotM2, Key: "M", Lanes: 4, Used: &used})
	}
	return list
}

// labelled is a drive as its label has it.
func (s *StandIn) labelled(id string, spec *Spec) hardware.Drive {
	l := spec.Label
	return hardware.Drive{ID: id, Kind: l.Kind, Maker: l.Maker, Model: l.Model, CapacityBytes: l.CapacityBytes,
		LogicalBytes: 512, PhysicalBytes: 4096, RPM: l.RPM,
		SerialDigest: hardware.Digest(l.Maker, l.Model, "simulated "+s.name+" "+spec.Name)}
}

const (
	// besideMount is where the new drive is mounted while it is attached by USB.
	besideMount = "simulated-usb"
	// usbMBs is what its case really carries.
	usbMBs = 430
)

// besides is the new drive where it is attached by USB, empty but for a file system; nil where it does not.
func (s *StandIn) besides() *Spec {
	s.mu.Lock()
	defer s.mu.Unlock()
	d, err := Open(s.spec.New, 0)
	if !s.beside || err != nil {
		return nil
	}
	spec := d.Spec()
	spec.FillPct, spec.link = 0, min(spec.link, usbMBs)
	return &spec
}

// begun is when this program was started: a simulated system recorded its starts before that, with its old drive.
var begun = time.Now()

// starts are three mornings with the old drive, as its system would have recorded them.
func (s *StandIn) starts() (list []hardware.Start) {
	for day := range 3 {
		d, err := Open(s.spec.Old, uint64(day)+1)
		if err != nil {
			return nil
		}
		phases, err := Perform(d, "start-recorded", false, 0)
		if err != nil {
			return nil
		}
		total := 0.0
		for _, v := range phases {
			total += v
		}
		list = append(list, hardware.Start{At: begun.UTC().Truncate(24 * time.Hour).Add(-time.Duration(day)*24*time.Hour - 16*time.Hour + time.Duration(7*day)*time.Minute), Seconds: math.Round(total*1000) / 1000, Resolution: 0.001,
			Phases: map[string]float64{"system": math.Round(total*1000) / 1000}})
	}
	return list
}

// systemBytes is how large the system's partition is, and how full: on the new drive as large
// as it was cloned from the old one, until it has grown.
func (s *StandIn) systemBytes(spec *Spec) (size, used int64) {
	size = spec.Label.CapacityBytes/alignBytes*alignBytes - bootBytes - reservedBytes - recoveryBytes - 2*alignBytes
	used = int64(spec.FillPct / 100 * float64(size))
	s.mu.Lock()
	defer s.mu.Unlock()
	if old, err := Open(s.spec.Old, 0); err == nil && s.fitted == s.spec.New && !s.grown {
		was := old.Spec().Label.CapacityBytes/alignBytes*alignBytes - bootBytes - reservedBytes - recoveryBytes - 2*alignBytes
		size, used = min(size, was), min(used, was)
	}
	return size, used
}

// linkOf names the link that rates say.
func linkOf(a job.Attached) *job.Link {
	name := func(mbs float64) (kind job.Port, link string) {
		switch a.Port {
		case job.PortSATA:
			return a.Port, map[float64]string{150: "1.5 Gb/s", 300: "3 Gb/s", 600: "6 Gb/s"}[mbs]
		case job.PortM2, job.PortPCIe:
			return job.PortPCIe, map[float64]string{7877: "4.0 x4", 3938: "3.0 x4"}[mbs]
		case job.PortUSB:
			return a.Port, map[float64]string{500: "5 Gb/s", 1212: "10 Gb/s"}[mbs]
		case job.PortMMC:
			return a.Port, map[float64]string{200: "HS200", 400: "HS400"}[mbs]
		}
		return "", ""
	}
	kind, now := name(a.LinkMBs)
	if now == "" {
		return nil
	}
	_, able := name(a.CapableMBs)
	return &job.Link{Kind: kind, Negotiated: now, Drive: able, Port: now}
}

// Conditions are the conditions that were set.
func (s *StandIn) Conditions(context.Context, string) (job.Conditions, []string, error) {
	spec, err := s.drive()
	if err != nil {
		return job.Conditions{}, nil, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	fill, temp, cpu, background, passes, no := spec.FillPct, spec.TempC, 3.0, 0.1, !s.passes.IsZero(), false
	c := job.Conditions{Power: s.power, PowerMode: job.NormalMode, Busy: slices.Clone(s.busy), FillPct: &fill,
		DriveTempC: &temp, Encrypted: &no, Encrypting: &passes,
		CPUPct: &cpu, BackgroundMBs: &background}
	causes := []string{}
	if len(s.busy) > 0 {
		background, cpu = 6.5, 14
		causes = append(causes, "simulated download: 6.5 MB/s, processor 11 %")
	}
	if passes {
		c.Pass = encryptionPass(time.Since(s.passes))
		background, cpu = 28, 17
		causes = append(causes, "simulated encryption: 28 MB/s, processor 14 %")
	}
	return c, causes, nil
}

// encryptionPass is how far a pass is of an hour that has 25 minutes left as it is set, and that
// stays a minute from its end
// until it is ended.
func encryptionPass(since time.Duration) *job.Pass {
	left := max(1, 25-since.Minutes())
	done := 100 - left/60*100
	return &job.Pass{Kind: job.EncryptionPass, DonePct: &done, MinutesLeft: &left}
}

// kept are made-up folders of its owner and which share of what its system uses each holds.
var kept = []struct {
	path  string
	share float64
}{{"Films/parish archive", 0.31}, {"Pictures/scans of slides", 0.22}, {"Mail/kept", 0.06}, {"Downloads", 0.04}}

// Weigh names its made-up folders.
func (s *StandIn) Weigh(context.Context, string) (order.Weighed, error) {
	spec, err := s.drive()
	if err != nil {
		return order.Weighed{}, err
	}
	_, used := s.systemBytes(spec)
	w := order.Weighed{Dir: "simulated", Files: int(used >> 20), Bytes: used}
	for _, f := range kept {
		w.Largest = append(w.Largest,
			order.Folder{Path: f.path, Files: int(f.share * float64(w.Files)), Bytes: int64(f.share * float64(used))})
	}
	return w, nil
}

// Of its made-up files: how many are in each folder, how large one is, and how fast they are read, B/s.
const (
	filesEach = 60
	fileBytes = 40e6
	filesRate = 100e6
)

// List lists made-up files. All but one have come across to its new drive.
func (s *StandIn) List(ctx context.Context, _ *order.Order, out, _ string, tell func(drivetest.Progress)) (folder string,
	sum manifest.Listed, err error) {
	s.mu.Lock()
	now := s.fitted == s.spec.New || s.beside
	s.mu.Unlock()
	folder = "Users"
	err = writeList(out, func(w *manifest.Writer) error {
		for i, f := range kept {
			for n := range filesEach {
				if now && i == 1 && n == 0 {
					continue
				}
				if ctx.Err() != nil {
					return ctx.Err()
				}
				name := fmt.Sprintf("%s/%03d", f.path, n+1)
				if err := w.Write(manifest.Entry{Path: name, Size: fileBytes, Digest: digestOf(name)}); err != nil {
					return err
				}
				sum.Files++
				sum.Bytes += fileBytes
				tell(drivetest.Progress{Done: float64(sum.Files) / float64(filesEach*len(kept)), Bytes: sum.Bytes, MBs: filesRate / 1e6,
					TempC: math.NaN(), HalfWidth: math.NaN(),
					Elapsed: time.Duration(float64(sum.Bytes) / filesRate * float64(time.Second))})
			}
		}
		return nil
	})
	return folder, sum, err
}

// writeList writes a compressed list; fill produces its content.
func writeList(out string, fill func(*manifest.Writer) error) error {
	f, err := os.Create(out)
	if err != nil {
		return err
	}
	zipped := gzip.NewWriter(f)
	w, err := manifest.NewWriter(zipped)
	if err == nil {
		err = fill(w)
	}
	return errors.Join(err, zipped.Close(), f.Close())
}

// digestOf stands for the digest of a made-up file.
func digestOf(name string) string {
	d := sha256.Sum256([]byte(name))
	return hex.EncodeToString(d[:])
}

// Launcher performs a test as its script says, on the drive that is fitted; seed makes it
// repeatable.
func (s *StandIn) Launcher(t *job.Test, seed uint64) (func(ctx context.Context) (*job.Run, error), error) {
	if _, ok := scripts[t.What]; !ok {
		return nil, fmt.Errorf("the simulated computer cannot do %q", t.What)
	}
	return func(ctx context.Context) (*job.Run, error) {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		s.mu.Lock()
		seed++
		d, err := Open(s.fitted, seed)
		s.mu.Unlock()
		if err != nil {
			return nil, err
		}
		phases, err := Perform(d, t.What, false, 0)
		if err != nil {
			return nil, err
		}
		value := 0.0
		for _, v := range phases {
			value += v
		}
		u := stopwatch.Automatic(Resolution)
		return &job.Run{Test: t.ID, Value: value, U: &u, Method: job.Automatic, Warmth: t.Warmth, Simulated: true}, nil
	}, nil
}

// Open opens its drive, or where dir lies there, the one attached by USB.
func (s *StandIn) Open(_ context.Context, dir string, _ bool) (round.Place, error) {
	beside := s.besides()
	s.mu.Lock()
	defer s.mu.Unlock()
	s.opened++
	if dir == besideMount {
		if beside == nil {
			return nil, fmt.Errorf("there is no folder %s", dir)
		}
		return newDrive(*beside, s.opened), nil
	}
	return Open(s.fitted, s.opened)
}
