package visit_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/job"
)

func said[T any](v T) *T { return &v }

// How a drive joins is not known until somebody says so, is changed, and undone; a cache is two drives.
func TestHowADriveJoins(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD},
			NewDrive: &bench.Drive{Kind: job.SataSSD}})
	require.NoError(t, err)
	how, of := v.Job.Setup("now").Joins()
	assert.Equal(t, []string{"", ""}, []string{string(how), of}, "nobody said")
	for _, tt := range []struct {
		change                visit.SetupChange
		how, of, drive, cache string
	}{
		{visit.SetupChange{Relation: said[job.Relation]("replaces")}, "replaces", "d1", "d2", ""},
		{visit.SetupChange{Relation: said[job.Relation]("cache"), CacheMode: said("writeback ")}, "cache", "d1", "d1",
			"d2"},
		{visit.SetupChange{Relation: said[job.Relation]("added")}, "added", "d1", "d2", ""},
		{visit.SetupChange{StandIn: said(false)}, "added", "d1", "d2", ""},
		{visit.SetupChange{Relation: said[job.Relation]("tried"), Of: said("d1")}, "tried", "d1", "d2", ""},
		{visit.SetupChange{Relation: said[job.Relation]("")}, "", "", "d2", ""},
	} {
		v, err = b.Visits.AmendSetup(ctx, nil, v.ID, "now", tt.change)
		require.NoError(t, err)
		s := v.Job.Setup("now")
		how, of := s.Joins()
		assert.Equal(t, []string{tt.how, tt.of, tt.drive, tt.cache},
			[]string{string(how), of, s.Drive, s.CacheDrive})
	}
	v, err = b.Visits.AmendSetup(ctx, nil, v.ID, "now",
		visit.SetupChange{Relation: said[job.Relation]("cache"), CacheDrive: &bench.Drive{Kind: job.NVMe}})
	require.NoError(t, err)
	assert.Len(t, v.Job.Drives, 3)
	assert.Equal(t, "d3", v.Job.Setup("now").CacheDrive, "a drive of its own, with a price of its own")
	assert.Empty(t, v.Job.Check())
}

// What is stated of a setup is kept as stated; what is none is refused, and nothing is changed.
func TestWhatIsStatedOfASetup(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	v, err = b.Visits.AmendSetup(ctx, nil, v.ID, "then",
		visit.SetupChange{Origin: said[job.Origin]("fresh"), SystemVersion: said(" 11 "),
			AlsoInstalled: said("another system"),
			Attached:      &visit.Attached{Port: "sata", LinkMBs: 300}, Link: &visit.Link{Kind: "sata",
				Negotiated: "3 Gb/s"}, StandIn: said(true),
			Drive: &visit.DriveFacts{RPM: said(5400), QueueDepth: said(32), MaxTempC: said(60.0)}})
	require.NoError(t, err)
	s, d := v.Job.Setup("then"), v.Job.Drive("d1")
	assert.Equal(t, job.System{Origin: "fresh", Version: "11", AlsoInstalled: "another system",
		Source: job.Stated}, s.System)
	assert.Equal(t, job.Attached{Port: "sata", LinkMBs: 300, Source: job.Stated}, s.Attached)
	assert.Equal(t, "3 Gb/s", s.Link.Negotiated)
	assert.True(t, s.StandIn)
	assert.Equal(t, []any{5400, 32, 60.0}, []any{d.RPM, d.QueueDepth, d.Rated.MaxTempC})
	for name, c := range map[string]visit.SetupChange{
		"a relation":                  {Relation: said[job.Relation]("marries")},
		"a drive":                     {Relation: said[job.Relation]("replaces"), Of: said("d9")},
		"a port":                      {Attached: &visit.Attached{Port: "parallel"}},
		"a temperature":               {Drive: &visit.DriveFacts{MaxTempC: said(900.0)}},
		"an origin":                   {Origin: said[job.Origin]("stolen")},
		"a cache":                     {CacheDrive: &bench.Drive{Kind: "drum"}},
		"a cache that caches nothing": {CacheDrive: &bench.Drive{Kind: job.NVMe}},
	} {
		_, err := b.Visits.AmendSetup(ctx, nil, v.ID, "then", c)
		desktest.Refusal(t, err, bench.Invalid)
		now, err := b.Jobs.View(ctx, v.ID)
		require.NoError(t, err)
		assert.Equal(t, v.Revision, now.Revision, name)
	}
	_, err = b.Visits.AmendSetup(ctx, nil, v.ID, "now", visit.SetupChange{})
	desktest.Refusal(t, err, bench.Missing)
}

// The old drive may be what stays; what happened to each drive is said of the drive.
func TestWhatStaysAndWhatBecameOfDrives(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Visits.Stay(ctx, nil, id, "then")
	require.NoError(t, err)
	assert.True(t, v.Job.PutBack())
	assert.Equal(t, job.Now, v.Job.Setup("now").Role, "roles stay")
	v, err = b.Visits.SetFate(ctx, nil, id, "d2", "put-back")
	require.NoError(t, err)
	assert.EqualValues(t, "put-back", v.Job.FateOf("d2"))
	_, err = b.Visits.SetFate(ctx, nil, id, "d2", "eaten")
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Visits.SetFate(ctx, nil, id, "d9", "kept")
	desktest.Refusal(t, err, bench.Missing)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack, OldDrive: "kept", Why: "x"})
	require.NoError(t, err)
	v, err = b.Jobs.View(ctx, id)
	require.NoError(t, err)
	assert.EqualValues(t, "kept", v.Job.FateOf("d1"), "as it was said at the last checkpoint")
}

// The checkpoint that was passed last is undone, until the new drive was measured.
func TestACheckpointIsTakenBack(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	pass := func(gate job.GateName) {
		_, err := b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: gate, Why: "x", OldDrive: "kept"})
		require.NoError(t, err)
	}
	pass(job.GateOldDriveOut)
	pass(job.GateCaseClosed)
	_, err := b.Visits.UnpassGate(ctx, nil, id, job.GateOldDriveOut)
	desktest.Refusal(t, err, bench.Conflict)
	v, err := b.Visits.UnpassGate(ctx, nil, id, job.GateCaseClosed)
	require.NoError(t, err)
	assert.Nil(t, v.Job.Gate(job.GateCaseClosed))
	_, err = b.Visits.UnpassGate(ctx, nil, id, job.GateCaseClosed)
	desktest.Refusal(t, err, bench.Missing)
	_, err = b.Sittings.Sit(ctx, nil, id, "now", bench.Conditions{})
	require.NoError(t, err)
	v, err = b.Sittings.TypeIn(ctx, nil, id,
		sittings.Typed{Test: "t-long-read", Sitting: "s1", Value: new(500.0), Unit: "MB/s"})
	require.NoError(t, err)
	_, err = b.Visits.UnpassGate(ctx, nil, id, job.GateOldDriveOut)
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Sittings.SetAside(ctx, nil, id, v.Job.Runs[0].ID, "it was the wrong one")
	require.NoError(t, err)
	_, err = b.Visits.UnpassGate(ctx, nil, id, job.GateOldDriveOut)
	require.NoError(t, err)
}

// Other work is changed and taken out by its id.
func TestOtherWorkIsChanged(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Visits.NoteWork(ctx, nil, id, visit.Work{What: job.WorkCleaning, Note: "fan"})
	require.NoError(t, err)
	work := v.Job.Head.Work[0]
	assert.True(t, work.TouchesMeasuring(), "nobody said that it touched nothing")
	at := work.At.Add(-time.Hour)
	v, err = b.Visits.AmendWork(ctx, nil, id, work.ID,
		visit.WorkChange{At: &at, What: said(job.WorkCooling), Note: said("pad"), Touches: said(false)})
	require.NoError(t, err)
	changed := v.Job.Head.Work[0]
	assert.Equal(t, []any{work.ID, job.WorkCooling, "pad", false},
		[]any{changed.ID, changed.What, changed.Note, changed.TouchesMeasuring()})
	_, err = b.Visits.AmendWork(ctx, nil, id, work.ID, visit.WorkChange{What: said[job.WorkKind]("singing")})
	desktest.Refusal(t, err, bench.Invalid)
	later := b.Jobs.Now().Add(time.Hour)
	_, err = b.Visits.AmendWork(ctx, nil, id, work.ID, visit.WorkChange{At: &later})
	desktest.Refusal(t, err, bench.Invalid)
	v, err = b.Visits.DropWork(ctx, nil, id, work.ID)
	require.NoError(t, err)
	assert.Empty(t, v.Job.Head.Work)
	_, err = b.Visits.DropWork(ctx, nil, id, "")
	desktest.Refusal(t, err, bench.Missing)
}
