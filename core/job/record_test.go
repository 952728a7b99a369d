package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// What older files said is read as said, and what is not known is not known.
func TestHowADriveJoins(t *testing.T) {
	for name, tt := range map[string]struct {
		s        Setup
		how      Relation
		of       string
		replaced string
	}{
		"nobody said":             {Setup{Drive: "d2"}, "", "", ""},
		"an older file, replaced": {Setup{Drive: "d2", Replaces: "d1"}, JoinsReplacing, "d1", "d1"},
		"an older file, added":    {Setup{Drive: "d2", Adds: true, Replaces: "d1"}, JoinsBeside, "", ""},
		"an older file, cached":   {Setup{Drive: "d1", CacheDrive: "d2"}, JoinsAsCache, "d1", ""},
		"said since, of an older": {Setup{Drive: "d2", Replaces: "d1", Relation: JoinsBeside}, JoinsBeside, "d1", ""},
		"said": {Setup{Drive: "d2", Relation: JoinsReplacing, Of: "d1"}, JoinsReplacing, "d1",
			"d1"},
		"only tried in its place": {Setup{Drive: "d2", Relation: OnlyTried, Of: "d1"}, OnlyTried, "d1", "d1"},
		"the old one goes back":   {Setup{Drive: "d1", Relation: GoesBack, Of: "d1"}, GoesBack, "d1", ""},
		"caches, said since": {Setup{Drive: "d1", CacheDrive: "d2", Relation: JoinsAsCache, Of: "d1"},
			JoinsAsCache, "d1", ""},
		"of a version still to be": {Setup{Drive: "d2", Relation: "mirrors", Of: "d1"}, "mirrors", "d1", ""},
	} {
		t.Run(name, func(t *testing.T) {
			how, of := tt.s.Joins()
			assert.Equal(t, []Relation{tt.how, Relation(tt.of), Relation(tt.replaced)},
				[]Relation{how, Relation(of), Relation(tt.s.Replaced())})
		})
	}
}

func TestWhatStays(t *testing.T) {
	j := &Job{Setups: []Setup{{ID: "then", Role: Then}, {ID: "now", Role: Now}, {ID: "trial", Role: Trial}}}
	for stays, want := range map[string]bool{"": false, "now": false, "trial": false, "then": true, "gone": false} {
		j.Head.Stays = stays
		assert.Equal(t, want, j.PutBack(), stays)
	}
	j.Head.Stays, j.Setups[1].Relation = "", GoesBack
	assert.True(t, j.PutBack(), "Now is the old drive again")
	assert.False(t, (&Job{}).PutBack(), "a job of nothing")
}

// visits has four sittings on a setup, an hour apart, with a run of each of two tests, and one on another.
func visits() *Job {
	at := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	j := &Job{Tests: []Test{{ID: "a", Kind: Timed, Unit: "s"}, {ID: "b", Kind: Timed, Unit: "s"}},
		Setups: []Setup{{ID: "then", Role: Then}, {ID: "now", Role: Now}}}
	for i, id := range []string{"s1", "s2", "s3", "s4"} {
		s := Sitting{ID: id, Setup: "then", Started: at.Add(time.Duration(i) * time.Hour)}
		j.Sittings = append(j.Sittings, s)
		for _, test := range []string{"a", "b"} {
			if test == "a" || i == 0 { // the second test was run only once
				j.Runs = append(j.Runs,
					Run{ID: test + id, Test: test, Sitting: id, Value: 10, At: s.Started.Add(time.Minute)})
			}
		}
	}
	return j
}

func TestTheSideOfAComparison(t *testing.T) {
	at := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	no := false
	work := func(hours float64) Work {
		return Work{What: WorkCleaning, At: at.Add(time.Duration(hours * float64(time.Hour)))}
	}
	for name, tt := range map[string]struct {
		change func(*Job)
		a, b   []string
	}{
		"all of it": {func(*Job) {}, []string{"as1", "as2", "as3", "as4"}, []string{"bs1"}},
		"one set aside": {func(j *Job) { j.Runs[0].SetAside = &SetAside{Reason: "x"} },
			[]string{"as2", "as3", "as4"}, []string{"bs1"}},
		"a question": {func(j *Job) { j.Sittings[1].Purpose = ForQuestion }, []string{"as1", "as3", "as4"},
			[]string{"bs1"}},
		"a check-up": {func(j *Job) { j.Sittings[3].Purpose = ForCheckUp }, []string{"as1", "as2", "as3"},
			[]string{"bs1"}},
		"an older check-up": {func(j *Job) { j.Sittings[3].FollowUp = true }, []string{"as1", "as2", "as3"},
			[]string{"bs1"}},
		"work between": {func(j *Job) { j.Head.Work = []Work{work(1.5)} }, []string{"as3", "as4"},
			[]string{"bs1"}},
		"work twice": {func(j *Job) { j.Head.Work = []Work{work(2.5), work(0.5)} }, []string{"as4"}, []string{"bs1"}},
		"work that touches nothing": {func(j *Job) {
			j.Head.Work = []Work{work(1.5)}
			j.Head.Work[0].Touches = &no
		}, []string{"as1", "as2", "as3", "as4"}, []string{"bs1"}},
		"work before and after all": {func(j *Job) { j.Head.Work = []Work{work(-1), work(9)} },
			[]string{"as1", "as2", "as3", "as4"}, []string{"bs1"}},
		"work at an unknown time": {func(j *Job) { j.Head.Work = []Work{{What: WorkCleaning}} },
			[]string{"as1", "as2", "as3", "as4"}, []string{"bs1"}},
		"work between a visit and a question": {func(j *Job) {
			j.Head.Work = []Work{work(2.5)}
			j.Sittings[3].Purpose = ForQuestion
		}, []string{"as1", "as2", "as3"}, []string{"bs1"}},
	} {
		t.Run(name, func(t *testing.T) {
			j := visits()
			tt.change(j)
			x := j.Indexed()
			ids := func(runs []*Run) (list []string) {
				for _, r := range runs {
					list = append(list, r.ID)
				}
				return list
			}
			assert.Equal(t, tt.a, ids(x.Side("a", "then")))
			assert.Equal(t, tt.b, ids(x.Side("b", "then")), "a test without runs since then keeps the earlier ones")
			assert.Empty(t, x.Side("a", "now"))
		})
	}
}

// The probe's word takes the place of what was stated, and what was stated otherwise stays beside it.
func TestFound(t *testing.T) {
	sata := &Attached{Port: PortSATA, LinkMBs: 600}
	link := &Link{Kind: PortSATA, Negotiated: "6 Gb/s"}
	for name, tt := range map[string]struct {
		s    Setup
		at   *AttachedStated
		link *LinkStated
	}{
		"nothing was known": {Setup{}, nil, nil},
		"the same was stated": {Setup{Attached: Attached{Port: PortSATA, Source: Stated},
			Link: &Link{Kind: PortSATA, Negotiated: "6 Gb/s", Source: Stated}}, nil, nil},
		"something else was stated": {Setup{Attached: Attached{Port: PortUSB, LinkMBs: 500, Source: Stated},
			Link: &Link{Kind: PortUSB, Negotiated: "5 Gb/s", Source: Stated}},
			&AttachedStated{Port: PortUSB, LinkMBs: 500}, &LinkStated{PortUSB, "5 Gb/s"}},
	} {
		t.Run(name, func(t *testing.T) {
			tt.s.Found(sata, link)
			assert.Equal(t, PortSATA, tt.s.Attached.Port)
			assert.Equal(t, ProbeSaid, tt.s.Attached.Source)
			assert.Equal(t, "6 Gb/s", tt.s.Link.Negotiated)
			assert.Equal(t, ProbeSaid, tt.s.Link.Source)
			assert.Equal(t, tt.at, tt.s.Attached.Stated)
			assert.Equal(t, tt.link, tt.s.Link.Stated)
		})
	}
	older := Setup{Attached: Attached{Port: PortUSB}, Link: &Link{Kind: PortUSB}}
	older.Found(sata, link)
	assert.Equal(t, Setup{Attached: Attached{Port: PortUSB}, Link: &Link{Kind: PortUSB}}, older,
		"before sources were kept")
	older.Found(nil, nil)
	assert.Equal(t, PortUSB, older.Attached.Port)
}

func TestSidesByName(t *testing.T) {
	j := visits()
	for i := range 2 {
		j.Sittings[1+i].Purpose, j.Sittings[1+i].Question = ForQuestion, "on battery, at 1/2"
	}
	j.Sittings[3].FollowUp = true
	j.Runs[4].SetAside = &SetAside{Reason: AfterItWentBack}
	for name, want := range map[string][]string{
		"then": {"as1"}, "s2": {"as2"}, "then/s3": {"as3"}, "then@s3": {"as3"}, "then/question:on battery, at 1/2": {"as2", "as3"},
		"then/s4": {"as4"}, "now/s2": nil, "nobody": nil, "then/": nil, "then/question:": nil, "": nil, "/": nil, "@": nil,
	} {
		x := j.Named(name).Indexed()
		var ids []string
		for _, r := range x.Side("a", name) {
			ids = append(ids, r.ID)
		}
		assert.Equal(t, want, ids, name)
		assert.Equal(t, want != nil, x.Setup(name) != nil, name)
	}
	assert.Len(t, j.Setups, 2, "the job itself is as it was")
	assert.NotNil(t, j.Runs[4].SetAside)
	two := j.Named("s1", "then/s2")
	assert.NotNil(t, two.Setup("s1"))
	assert.NotNil(t, two.Setup("then/s2"))
}
