package fitting

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/checks"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

func yn(b bool) *bool { return &b }

// A laptop with an M.2 slot that speaks SATA alone, however it looks, and shuts a port; and a drive
// that is right but for that.
func TestWhetherItGoesIn(t *testing.T) {
	slot := Model{Place: Place{Form: job.FormM2, HeightMM: 2.4, LengthsMM: []float64{42, 80}, Key: "M",
		Speaks: []string{SATA, NVMe}, SwitchesOff: []string{}, HeatSink: yn(true), Power: yn(true)},
		StartsNVMe: yn(true)}
	drive := job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe},
		DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormM2, HeightMM: 2.3, LengthMM: 80, Key: "M"}}}
	facts := &hardware.Facts{Drives: []hardware.Drive{{Kind: job.HDD}, {Kind: job.SataSSD, Trim: yn(true)}}}
	for name, c := range map[string]struct {
		change func(m *Model, d *job.Drive)
		id     string // of the check that is not fine; "": all are
		state  job.CheckState
	}{
		"all is right": {func(*Model, *job.Drive) {}, "", ""},
		"another form": {func(_ *Model, d *job.Drive) { d.Shape.Form = job.FormCard }, "form",
			checks.Wrong},
		"form of the place unknown": {func(m *Model, _ *job.Drive) { m.Place.Form = "" }, "form", checks.Unknown},
		"too high":                  {func(_ *Model, d *job.Drive) { d.Shape.HeightMM = 3.8 }, "height", checks.Wrong},
		"no holder for its length":  {func(_ *Model, d *job.Drive) { d.Shape.LengthMM = 110 }, "length", checks.Wrong},
		"its length is not known":   {func(_ *Model, d *job.Drive) { d.Shape.LengthMM = 0 }, "length", checks.Unknown},
		"the other key":             {func(_ *Model, d *job.Drive) { d.Shape.Key = "B" }, "key", checks.Wrong},
		"both notches meet it":      {func(_ *Model, d *job.Drive) { d.Shape.Key = "B+M" }, "", ""},
		"the slot speaks SATA alone": {func(m *Model, _ *job.Drive) { m.Place.Speaks = []string{SATA} }, "speaks",
			checks.Wrong},
		"what it speaks is unknown": {func(m *Model, _ *job.Drive) { m.Place.Speaks = nil }, "speaks", checks.Unknown},
		"it shuts a port": {func(m *Model, _ *job.Drive) { m.Place.SwitchesOff = []string{"SATA 5"} },
			"switched-off", checks.Unknown},
		"whether it shuts one": {func(m *Model, _ *job.Drive) { m.Place.SwitchesOff = nil }, "switched-off",
			checks.Unknown},
		"no room for a heat sink": {func(m *Model, _ *job.Drive) { m.Place.HeatSink = yn(false) }, "heat-sink",
			checks.Wrong},
		"no plug": {func(m *Model, _ *job.Drive) { m.Place.Power = yn(false) }, "power",
			checks.Wrong},
		"the firmware cannot": {func(m *Model, _ *job.Drive) { m.StartsNVMe = yn(false) }, "starts",
			checks.Wrong},
		"whether the firmware can": {func(m *Model, _ *job.Drive) { m.StartsNVMe = nil }, "starts", checks.Unknown},
	} {
		t.Run(name, func(t *testing.T) {
			m, d, shape := slot, drive, *drive.Shape
			d.Shape = &shape
			c.change(&m, &d)
			got := map[string]string{}
			for _, k := range ofBest(&m, &d, facts, nil) {
				if k.State != checks.Fine {
					got[k.ID] = string(k.State)
				}
				assert.NotEmpty(t, k.Title)
				assert.Equal(t, k.State == checks.Wrong, k.Do != "", "what to do stands where something is wrong: %s",
					k.ID)
				assert.NotEmpty(t, k.Found, k.ID)
			}
			want := map[string]string{}
			if c.id != "" {
				want[c.id] = string(c.state)
			}
			assert.Equal(t, want, got)
		})
	}
}

// ofBest are the checks of the best place, if not checked at its ports.
func ofBest(m *Model, d *job.Drive, f *hardware.Facts, old *hardware.Drive) []checks.Check {
	of, _ := Of(m, d, f, old, "")
	return of
}

// Of several slots the best one is checked, and all are named in that order.
func TestSeveralSlots(t *testing.T) {
	slot := func(name, key string, lengths ...float64) Place {
		return Place{Name: name, Form: job.FormM2, Key: key, LengthsMM: lengths, Speaks: []string{NVMe},
			SwitchesOff: []string{}, HeatSink: yn(true), Power: yn(true)}
	}
	m := Model{Place: slot("M2_1", "B", 80), More: []Place{slot("M2_2", "M"), slot("M2_3", "M", 42, 80)},
		StartsNVMe: yn(true)}
	d := job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe},
		DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormM2, LengthMM: 80, Key: "M"}}}
	of, slots := Of(&m, &d, nil, nil, "")
	names := []string{}
	for _, s := range slots {
		names = append(names, s.Name)
	}
	assert.Equal(t, []string{"M2_3", "M2_2", "M2_1"}, names)
	assert.Equal(t, checks.Wrong, slots[2].State)
	for _, k := range of {
		assert.NotEqual(t, checks.Wrong, k.State, k.ID)
	}
}

// Where a slot disables a port, somebody says whether anything is attached there; until then it is unknown.
func TestAPortThatIsSwitchedOff(t *testing.T) {
	m := Model{Place: Place{Form: job.FormM2, SwitchesOff: []string{"SATA 5", "SATA 6"}}}
	for said, want := range map[job.CheckState]job.CheckState{"": checks.Unknown, checks.Fine: checks.Fine,
		checks.Wrong: checks.Wrong} {
		of, _ := Of(&m, &job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe}}, nil, nil, said)
		i := slices.IndexFunc(of, func(c checks.Check) bool { return c.ID == Attached })
		assert.Equal(t, want, of[i].State)
		assert.True(t, of[i].ByHand)
		assert.Contains(t, of[i].Found, "SATA 5, SATA 6")
		assert.Equal(t, want == checks.Wrong, of[i].Do != "")
	}
}

// Unrecorded facts are never fine, and checks that don't apply to a disk are left out.
func TestNothingIsKnown(t *testing.T) {
	ids := []string{}
	for _, k := range ofBest(&Model{},
		&job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD},
			DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.Form25}}}, nil, nil) {
		assert.Equal(t, checks.Unknown, k.State, k.ID)
		ids = append(ids, k.ID)
	}
	assert.Equal(t, []string{"form", "height", "speaks", "switched-off", "power"}, ids)
	for _, k := range ofBest(&Model{}, &job.Drive{}, &hardware.Facts{}, nil) {
		assert.Equal(t, checks.Unknown, k.State, k.ID)
	}
	assert.Equal(t, checks.Wrong,
		ofBest(&Model{Place: Place{Form: job.Form25, HeightMM: 7}},
			&job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.Form25, HeightMM: 9.5}}}, nil, nil)[1].State)
}

func TestTrimOfTheSystem(t *testing.T) {
	at := func(f *hardware.Facts) job.CheckState {
		for _, k := range ofBest(&Model{}, &job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD}}, f, nil) {
			if k.ID == "trim" {
				return k.State
			}
		}
		return ""
	}
	assert.Equal(t, checks.Unknown, at(nil))
	assert.Equal(t, checks.Unknown, at(&hardware.Facts{Drives: []hardware.Drive{{Kind: job.HDD, Trim: yn(false)}}}),
		"a disk tells nothing of it")
	assert.Equal(t, checks.Fine, at(&hardware.Facts{Drives: []hardware.Drive{{Kind: job.SataSSD, Trim: yn(true)}}}))
	assert.Equal(t, checks.Wrong, at(&hardware.Facts{Drives: []hardware.Drive{{Kind: job.SataSSD, Trim: yn(false)}}}))
}

// Sizes are held against each other to the last tenth, and of what is not known on one side nothing is said.
func TestSizes(t *testing.T) {
	place := func(form job.Form, height float64, lengths ...float64) Place {
		return Place{Form: form, HeightMM: height, LengthsMM: lengths}
	}
	shape := func(form job.Form, height, length float64) *job.Shape {
		return &job.Shape{Form: form, HeightMM: height, LengthMM: length}
	}
	for name, c := range map[string]struct {
		place Place
		shape *job.Shape
		id    string
		state job.CheckState
		found string // "": it is not asked
	}{
		"as high as the place": {place(job.Form25, 7), shape(job.Form25, 7, 0), "height", checks.Fine,
			"7 mm"},
		"a tenth higher": {place(job.Form25, 7), shape(job.Form25, 7.1, 0), "height", checks.Wrong,
			"7.1 mm"},
		"a thin one": {place(job.Form25, 0.9), shape(job.Form25, 0.8, 0), "height", checks.Fine,
			"0.8 mm"},
		"who knows how high it is": {place(job.Form25, 7), shape(job.Form25, 0, 0), "height", checks.Unknown,
			"not known"},
		"who knows how high the place is": {place(job.Form25, 0), shape(job.Form25, 7, 0), "height", checks.Unknown,
			"7 mm"},
		"a card into a place for 2.5 inch": {place(job.Form25, 0), shape(job.FormCard, 0, 0), "height", checks.Unknown,
			"not known"},
		"M.2 with both heights": {place(job.FormM2, 0.9), shape(job.FormM2, 0.8, 0), "height", checks.Fine,
			"0.8 mm"},
		"M.2 with one height": {place(job.FormM2, 0), shape(job.FormM2, 2.3, 0), "height", "", ""},
		"M.2 with the other":  {place(job.FormM2, 2.4), shape(job.FormM2, 0, 0), "height", "", ""},
		"a short one": {place(job.FormM2, 0, 0.5), shape(job.FormM2, 0, 0.5), "length",
			checks.Fine, "0.5 mm"},
		"no length": {place(job.FormM2, 0, 80), shape(job.FormM2, 0, 0), "length",
			checks.Unknown, "not known"},
		"no lengths": {place(job.FormM2, 0), shape(job.FormM2, 0, 80), "length", checks.Unknown,
			"80 mm"},
		"one length, another": {place(job.FormM2, 0, 42), shape(job.FormM2, 0, 80), "length", checks.Wrong,
			"80 mm"},
		"2.5 inch has no length": {place(job.Form25, 7), shape(job.Form25, 7, 100), "length", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			var got checks.Check
			for _, k := range ofBest(&Model{Place: c.place},
				&job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
					DriveFound: job.DriveFound{Shape: c.shape}}, nil, nil) {
				if k.ID == c.id {
					got = k
				}
			}
			assert.Equal(t, []any{c.state, c.found},
				[]any{got.State, got.Found})
		})
	}
}
