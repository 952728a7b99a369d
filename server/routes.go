package server

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/evidence"
	"nowthen/bench/followup"
	"nowthen/bench/forecasting"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/probes"
	"nowthen/bench/reporting"
	"nowthen/bench/sittings"
	"nowthen/bench/swap"
	"nowthen/bench/timing"
	"nowthen/bench/visit"
	"nowthen/core/capacity"
	"nowthen/core/figures"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
	"nowthen/machine"
)

type (
	ctx  = context.Context
	view = *bench.View
)

// routes are those of api/openapi.yaml, by what they are about.
func (s *Server) routes() {
	api := s.app.Group("/api")
	s.accessRoutes(api)
	s.shopRoutes(api)
	s.jobRoutes(api)
	s.planRoutes(api)
	s.sittingRoutes(api)
	s.measuringRoutes(api)
	s.probeRoutes(api)
	s.timerRoutes(api)
	s.evidenceRoutes(api)
	s.reportRoutes(api)
}

// param is a part of a path as it was meant: fiber hands on what was sent, percent-encoded where
// the sender did so.
func param(c fiber.Ctx, name string) string {
	part := c.Params(name)
	if whole, err := url.PathUnescape(part); err == nil {
		return whole
	}
	return part
}

func id(c fiber.Ctx) string { return param(c, "job") }

// shopRoutes are about the bench itself.
func (s *Server) shopRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/clock", func(c fiber.Ctx) error { return answer(c, 200, map[string]float64{"ms": d.Jobs.NowMS()}) })
	api.Get("/events", s.events)
	api.Get("/computer", get(func(ctx ctx, c fiber.Ctx) (job.Computer, error) { return d.Rounds.Computer(ctx), nil }))
	api.Get("/conditions", get(func(ctx ctx, c fiber.Ctx) (job.Conditions, error) {
		return d.Rounds.ConditionsHere(ctx, c.Query("dir"))
	}))
	api.Get("/folders", get(func(_ ctx, c fiber.Ctx) (*machine.Listing, error) {
		return d.Rounds.Folders(c.Query("path"))
	}))
	api.Get("/settings/usual",
		get(func(ctx ctx, _ fiber.Ctx) (*reporting.Usual, error) { return s.desk.Reports.Usual(ctx) }))
	api.Post("/settings/usual",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, _ fiber.Ctx, _ none) (*reporting.Usual, error) {
			return s.desk.Reports.Learn(ctx, ch)
		}))
	api.Get("/settings/shop", get(func(ctx ctx, _ fiber.Ctx) (bench.Shop, error) { return d.Reports.Shop(ctx) }))
	api.Put("/settings/shop",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, _ fiber.Ctx, in bench.Shop) (bench.Shop, error) {
			return d.Reports.SetShop(ctx, ch, in)
		}))
	api.Get("/settings", get(func(ctx ctx, _ fiber.Ctx) (settings, error) { return s.settings(ctx) }))

	api.Get("/technicians", get(func(ctx ctx, c fiber.Ctx) ([]timing.Technician, error) {
		list, err := d.Timers.Technicians(ctx)
		if err != nil {
			return nil, err
		}
		return page(c, list, func(t timing.Technician) string { return t.Name })
	}))
	api.Post("/technicians",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in timing.Reactions) (*timing.Technician, error) {
			return d.Timers.Calibrate(ctx, ch, in)
		}))
	api.Get("/technicians/:technician", get(func(ctx ctx, c fiber.Ctx) (*timing.Technician, error) {
		return d.Timers.Technician(ctx, param(c, "technician"))
	}))

	api.Get("/catalogue", get(func(ctx, fiber.Ctx) ([]plan.Offer, error) { return plan.Offers(), nil }))
	api.Get("/templates", get(func(ctx ctx, c fiber.Ctx) ([]plan.Template, error) {
		list, err := d.Plans.Templates(ctx)
		if err != nil {
			return nil, err
		}
		return page(c, list, func(t plan.Template) string { return t.ID })
	}))
	api.Get("/templates/:template",
		get(func(ctx ctx, c fiber.Ctx) (plan.Template, error) { return d.Plans.Template(ctx, param(c, "template")) }))
	type naming struct {
		Job  string `json:"job"`
		Name string `json:"name"`
	}
	api.Post("/templates",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in naming) ([]plan.Template, error) {
			return d.Plans.SaveTemplate(ctx, ch, in.Job, in.Name)
		}))
	api.Delete("/templates/:template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]plan.Template, error) {
			return d.Plans.DropTemplate(ctx, ch, param(c, "template"))
		}))
}

// jobRoutes are about a job from intake to hand-over.
func (s *Server) jobRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/jobs", get(func(ctx ctx, c fiber.Ctx) (board, error) {
		after, limit, err := paging(c)
		if err != nil {
			return board{}, err
		}
		b, err := d.Visits.Board(ctx,
			visit.Ask{State: c.Query("state"), Query: c.Query("q"), After: after, Limit: limit})
		if err != nil {
			return board{}, err
		}
		nextPage(c, b.Next)
		rounds := d.Rounds.Active()
		timers, err := d.Timers.Going(ctx)
		if err != nil {
			return board{}, err
		}
		out := board{Board: b, Measuring: first(rounds), Rounds: rounds, Timers: timers}
		if s.o.Backups != nil {
			state, err := s.o.Backups.State()
			if err != nil {
				return board{}, err
			}
			out.Backups = &notice{Problem: state.Problem, Good: state.Good, Waiting: state.Waiting}
		}
		return out, nil
	}))
	api.Post("/jobs", change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.Intake) (view, error) {
		return d.Visits.Open(ctx, ch, in)
	}))
	api.Post("/jobs/import",
		change(s, 201, maxUpload, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in upload) (view, error) {
			return d.Files.ImportFile(ctx, ch, c.Query("name", "the file"), in.path, c.Query("as"))
		}))
	api.Get("/jobs/:job", get(func(ctx ctx, c fiber.Ctx) (view, error) { return d.Jobs.View(ctx, id(c)) }))
	api.Patch("/jobs/:job",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.Change) (view, error) {
			return d.Visits.Amend(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job", change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (any, error) {
		if c.Query("for") == "good" {
			job := id(c)
			return none{}, d.Evidence.WithoutClips(ctx, job, func() error { return d.Visits.Delete(ctx, ch, job) })
		}
		return d.Visits.Bin(ctx, ch, id(c))
	}))
	api.Post("/jobs/:job/restore",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.Restore(ctx, ch, id(c))
		}))
	type taking struct {
		Job string `json:"job"`
	}
	api.Get("/jobs/:job/earlier",
		get(func(ctx ctx, c fiber.Ctx) ([]visit.Earlier, error) { return d.Visits.Earlier(ctx, id(c)) }))
	api.Post("/jobs/:job/earlier",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in taking) (view, error) {
			return d.Visits.TakeEarlier(ctx, ch, id(c), in.Job)
		}))
	api.Get("/jobs/:job/export", s.export)
	api.Post("/jobs/:job/gates",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.Passing) (view, error) {
			return d.Visits.PassGate(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/gates/:gate",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.UnpassGate(ctx, ch, id(c), job.GateName(param(c, "gate")))
		}))
	api.Post("/jobs/:job/work",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.Work) (view, error) {
			return d.Visits.NoteWork(ctx, ch, id(c), in)
		}))
	api.Patch("/jobs/:job/work/:work",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.WorkChange) (view, error) {
			return d.Visits.AmendWork(ctx, ch, id(c), param(c, "work"), in)
		}))
	api.Delete("/jobs/:job/work/:work",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.DropWork(ctx, ch, id(c), param(c, "work"))
		}))

	type newStep struct {
		Text string `json:"text"`
		When string `json:"when"`
	}
	type tick struct {
		Done bool   `json:"done"`
		By   string `json:"by"`
	}
	api.Post("/jobs/:job/steps",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in newStep) (view, error) {
			return d.Visits.AddStep(ctx, ch, id(c), in.Text, in.When)
		}))
	api.Get("/jobs/:job/steps/:step", get(func(ctx ctx, c fiber.Ctx) (*job.Step, error) {
		return item(ctx, s, c, "step", func(j *job.Job, id string) *job.Step { return j.Step(id) })
	}))
	api.Put("/jobs/:job/steps/:step",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in tick) (view, error) {
			return d.Visits.Tick(ctx, ch, id(c), param(c, "step"), in.Done, in.By)
		}))
	api.Delete("/jobs/:job/steps/:step",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.DropStep(ctx, ch, id(c), param(c, "step"))
		}))

	api.Post("/jobs/:job/events",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sittings.Happening) (view, error) {
			return d.Sittings.NoteEvent(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/setups/:setup/last-event",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.ForgetEvent(ctx, ch, id(c), param(c, "setup"))
		}))

	type trial struct {
		Name  string      `json:"name"`
		Drive bench.Drive `json:"drive"`
		// Relation is how it joins the computer; "" is not said.
		Relation job.Relation `json:"relation"`
		// DriveID is a drive of the job, in another place.
		DriveID string `json:"drive_id"`
	}
	type fate struct {
		Fate job.Fate `json:"fate"`
	}
	type used struct {
		Bytes int64  `json:"bytes"`
		Text  string `json:"text"`
	}
	api.Post("/jobs/:job/setups",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in trial) (view, error) {
			return d.Visits.AddTrial(ctx, ch, id(c),
				visit.Trial{Name: in.Name, Drive: in.Drive, DriveID: in.DriveID, Relation: in.Relation})
		}))
	type other struct {
		Drive bench.Drive `json:"drive"`
		Holds string      `json:"holds"`
	}
	api.Post("/jobs/:job/other-drives",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in other) (view, error) {
			return d.Visits.AddOther(ctx, ch, id(c), in.Drive, in.Holds)
		}))
	api.Delete("/jobs/:job/other-drives/:drive",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.DropOther(ctx, ch, id(c), param(c, "drive"))
		}))
	api.Get("/jobs/:job/setups/:setup", get(func(ctx ctx, c fiber.Ctx) (*job.Setup, error) {
		return item(ctx, s, c, "setup", func(j *job.Job, id string) *job.Setup { return j.Setup(id) })
	}))
	api.Patch("/jobs/:job/setups/:setup",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.SetupChange) (view, error) {
			return d.Visits.AmendSetup(ctx, ch, id(c), param(c, "setup"), in)
		}))
	api.Put("/jobs/:job/drives/:drive/fate",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in fate) (view, error) {
			return d.Visits.SetFate(ctx, ch, id(c), param(c, "drive"), in.Fate)
		}))
	api.Put("/jobs/:job/setups/:setup/stays",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Visits.Stay(ctx, ch, id(c), param(c, "setup"))
		}))
	api.Put("/jobs/:job/setups/:setup/used",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in used) (view, error) {
			return d.Visits.NoteUsed(ctx, ch, id(c), param(c, "setup"), in.Bytes)
		}))
}

// item returns one item of a job.
func item[T any](ctx ctx, s *Server, c fiber.Ctx, kind string, find func(*job.Job, string) *T) (*T, error) {
	snap, err := s.desk.Jobs.Load(ctx, id(c))
	if err != nil {
		return nil, err
	}
	if v := find(snap.Job, param(c, kind)); v != nil {
		return v, nil
	}
	return nil, bench.Refuse(bench.Missing, "There is no %s %q in this job.", kind, param(c, kind))
}

// board is the bench page with what is being measured.
type board struct {
	*visit.Board
	Measuring *measuring.Measuring   `json:"measuring"` // the first of Rounds, or null
	Rounds    []*measuring.Measuring `json:"rounds"`
	Timers    []timing.Going         `json:"timers"`  // that run
	Backups   *notice                `json:"backups"` // null where nothing is backed up
}

// notice is what the bench page says of the daily backups.
type notice struct {
	Problem string `json:"problem"` // why the last one was not made or what is damaged in it, or ""
	Good    string `json:"good"`    // the newest one without damage, or ""
	Waiting bool   `json:"waiting"` // until measuring on this computer has ended
}

// first is the first of a list, or nil.
func first[T any](list []*T) *T {
	if len(list) == 0 {
		return nil
	}
	return list[0]
}

// planRoutes are about what is measured.
func (s *Server) planRoutes(api fiber.Router) {
	d := s.desk
	type use struct {
		Template string `json:"template"`
	}
	type excuse struct {
		Test  string `json:"test"`
		Setup string `json:"setup"`
		Why   string `json:"why"`
	}
	api.Put("/jobs/:job/template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in use) (view, error) {
			return d.Plans.UseTemplate(ctx, ch, id(c), in.Template)
		}))
	api.Delete("/jobs/:job/template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Plans.UndoTemplate(ctx, ch, id(c))
		}))
	api.Put("/jobs/:job/bill",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.BillIn) (view, error) {
			return d.Visits.Bill(ctx, ch, id(c), in)
		}))
	api.Put("/jobs/:job/answers",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in map[string]float64) (view, error) {
			return d.Plans.Answer(ctx, ch, id(c), in)
		}))
	api.Patch("/jobs/:job/plan",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in planning.PlanChange) (*planning.Changed, error) {
			return d.Plans.Save(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/tests",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in planning.NewTest) (view, error) {
			return d.Plans.AddTest(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/tests/:test", get(func(ctx ctx, c fiber.Ctx) (*job.Test, error) {
		return item(ctx, s, c, "test", func(j *job.Job, id string) *job.Test { return j.Test(id) })
	}))
	api.Patch("/jobs/:job/tests/:test",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in planning.TestChange) (*planning.Changed, error) {
			return d.Plans.ChangeTest(ctx, ch, id(c), param(c, "test"), in)
		}))
	api.Delete("/jobs/:job/tests/:test",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*planning.Changed, error) {
			return d.Plans.TakeOut(ctx, ch, id(c), param(c, "test"))
		}))
	api.Put("/jobs/:job/excuses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in excuse) (view, error) {
			return d.Plans.Excuse(ctx, ch, id(c), in.Test, in.Setup, in.Why)
		}))
}

// sittingRoutes are about sittings, their conditions and their runs.
func (s *Server) sittingRoutes(api fiber.Router) {
	d := s.desk
	type sit struct {
		Setup      string           `json:"setup"`
		Conditions bench.Conditions `json:"conditions"`
	}
	type aside struct {
		Reason string `json:"reason"`
	}
	api.Post("/jobs/:job/sittings",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sit) (view, error) {
			return d.Sittings.Sit(ctx, ch, id(c), in.Setup, in.Conditions)
		}))
	api.Get("/jobs/:job/sittings/:sitting", get(func(ctx ctx, c fiber.Ctx) (*job.Sitting, error) {
		return item(ctx, s, c, "sitting", func(j *job.Job, id string) *job.Sitting { return j.Sitting(id) })
	}))
	api.Put("/jobs/:job/sittings/:sitting/purpose",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sittings.Purpose) (view, error) {
			return d.Sittings.SetPurpose(ctx, ch, id(c), param(c, "sitting"), in)
		}))
	api.Put("/jobs/:job/sittings/:sitting",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in bench.Conditions) (view, error) {
			return d.Sittings.Amend(ctx, ch, id(c), param(c, "sitting"), in)
		}))
	api.Get("/jobs/:job/runs", get(func(ctx ctx, c fiber.Ctx) ([]job.Run, error) {
		after, limit, err := paging(c)
		if err != nil {
			return nil, err
		}
		runs, next, err := d.Sittings.Runs(ctx, id(c),
			sittings.Which{Test: c.Query("test"), Setup: c.Query("setup"), After: after, Limit: limit})
		nextPage(c, next)
		return runs, err
	}))
	api.Post("/jobs/:job/runs",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sittings.Typed) (view, error) {
			return d.Sittings.TypeIn(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/runs/:run",
		get(func(ctx ctx, c fiber.Ctx) (*job.Run, error) { return d.Reports.Run(ctx, id(c), param(c, "run")) }))
	api.Put("/jobs/:job/runs/:run/set-aside",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in aside) (view, error) {
			return d.Sittings.SetAside(ctx, ch, id(c), param(c, "run"), in.Reason)
		}))
	api.Delete("/jobs/:job/runs/:run/set-aside",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.TakeBack(ctx, ch, id(c), param(c, "run"))
		}))
	api.Post("/jobs/:job/waiting/:run/accept",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.Accept(ctx, ch, id(c), param(c, "run"))
		}))
	api.Delete("/jobs/:job/waiting/:run",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.Discard(ctx, ch, id(c), param(c, "run"))
		}))
	api.Post("/jobs/:job/table",
		change(s, 200, figures.MaxCSV+1,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*sittings.Table, error) {
				name := c.Query("name", "the file")
				if c.Query("take") == "" {
					return d.Sittings.PreviewTable(ctx, id(c), name, in)
				}
				return d.Sittings.TakeTable(ctx, ch, id(c), name, in, c.Query("take") == "sure")
			}))
	api.Post("/jobs/:job/setups/:setup/sitting-file",
		change(s, 201, jobfile.MaxBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Sittings.TakeSitting(ctx, ch, id(c), param(c, "setup"), c.Query("name", "the file"), in,
				c.Query("sure") == "1")
		}))
}

// measuringRoutes are about what the program runs by itself.
func (s *Server) measuringRoutes(api fiber.Router) {
	d := s.desk
	type perform struct {
		Test    string `json:"test"`
		Sitting string `json:"sitting"`
	}
	api.Post("/jobs/:job/perform",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in perform) (view, error) {
			return d.Rounds.Perform(ctx, ch, id(c), in.Test, in.Sitting)
		}))
	api.Get("/jobs/:job/measuring",
		get(func(ctx ctx, c fiber.Ctx) (*measuring.Measuring, error) { return d.Rounds.Measuring(ctx, id(c)) }))
	api.Post("/jobs/:job/measuring",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.MeasureRequest) (*measuring.Measuring, error) {
			return d.Rounds.Measure(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/restarts",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.RestartRequest) (*measuring.Measuring, error) {
			return d.Rounds.Restart(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/launches",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.LaunchRequest) (*measuring.Measuring, error) {
			return d.Rounds.Launch(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/measuring",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*measuring.Measuring, error) {
			return d.Rounds.Cancel(ctx, ch, id(c))
		}))
}

// timerRoutes are about timing by hand.
func (s *Server) timerRoutes(api fiber.Router) {
	d := s.desk
	type arm struct {
		Test    string `json:"test"`
		Sitting string `json:"sitting"`
		By      string `json:"by"`
	}
	api.Get("/jobs/:job/timer",
		get(func(ctx ctx, c fiber.Ctx) (*timing.Timer, error) { return d.Timers.Timer(ctx, id(c)) }))
	api.Put("/jobs/:job/timer",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in arm) (*timing.Timer, error) {
			return d.Timers.Arm(ctx, ch, id(c), in.Test, in.Sitting, in.By)
		}))
	api.Delete("/jobs/:job/timer",
		change(s, 204, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (none, error) {
			return none{}, d.Timers.Discard(ctx, ch, id(c))
		}))
	api.Post("/jobs/:job/timer/presses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in timing.Press) (*timing.Timer, error) {
			return d.Timers.Press(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/timer/presses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*timing.Timer, error) {
			return d.Timers.Undo(ctx, ch, id(c), c.Query("timer"), c.Query("key"))
		}))
	api.Post("/jobs/:job/timer/keep",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in timing.Keeping) (view, error) {
			return d.Timers.Keep(ctx, ch, id(c), in)
		}))
}

// evidenceRoutes are about clips and photos.
func (s *Server) evidenceRoutes(api fiber.Router) {
	d := s.desk
	type until struct {
		KeepUntil *time.Time `json:"keep_until"`
	}
	api.Get("/jobs/:job/clips", get(func(ctx ctx, c fiber.Ctx) (*evidence.Clips, error) {
		list, err := d.Evidence.ClipsOf(ctx, id(c))
		if err != nil {
			return nil, err
		}
		list.Clips, err = page(c, list.Clips, func(k evidence.Clip) string { return k.ID })
		return list, err
	}))
	api.Post("/jobs/:job/clips",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in evidence.NewClip) (*evidence.Clip, error) {
			return d.Evidence.OpenClip(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/clips/:clip", get(func(ctx ctx, c fiber.Ctx) (*evidence.Clip, error) {
		return d.Evidence.Clip(ctx, id(c), param(c, "clip"))
	}))
	api.Put("/jobs/:job/clips/:clip/bytes",
		change(s, 200, evidence.MaxPieceBytes,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*evidence.Clip, error) {
				offset, err := strconv.ParseInt(c.Query("offset", "0"), 10, 64)
				if err != nil {
					return nil, fiber.NewError(fiber.StatusBadRequest, "The offset is a number of bytes.")
				}
				return d.Evidence.AppendClip(ctx, ch, id(c), param(c, "clip"), offset, in)
			}))
	api.Get("/jobs/:job/clips/:clip/file", func(c fiber.Ctx) error {
		dir, name, kind, err := d.Evidence.ClipFile(c.Context(), id(c), param(c, "clip"))
		if err != nil {
			return err
		}
		if err := c.SendFile(name, fiber.SendFile{FS: dir, ByteRange: true}); err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, kind)
		c.Set(fiber.HeaderCacheControl, "private, max-age=3600")
		return nil
	})
	api.Patch("/jobs/:job/clips/:clip",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in until) (*evidence.Clips, error) {
			return d.Evidence.KeepClip(ctx, ch, id(c), param(c, "clip"), in.KeepUntil)
		}))
	api.Delete("/jobs/:job/clips/:clip",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*evidence.Clips, error) {
			return d.Evidence.DropClip(ctx, ch, id(c), param(c, "clip"))
		}))
	api.Post("/jobs/:job/clips/:clip/runs",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in evidence.Marking) (view, error) {
			return d.Evidence.TimeByVideo(ctx, ch, id(c), param(c, "clip"), in)
		}))
	api.Post("/jobs/:job/stills",
		change(s, 201, evidence.MaxPhotoBytes,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*evidence.Still, error) {
				return d.Evidence.AddStill(ctx, ch, id(c), in)
			}))
	api.Post("/jobs/:job/steps/:step/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Step: param(c, "step")}, c.Query("name"), in)
		}))
	api.Post("/jobs/:job/sittings/:sitting/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Sitting: param(c, "sitting")}, c.Query("name"),
				in)
		}))
	api.Post("/jobs/:job/runs/:run/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Run: param(c, "run")}, c.Query("name"), in)
		}))
	api.Get("/jobs/:job/photos/:photo", func(c fiber.Ctx) error {
		of := d.Evidence.Photo
		if c.Query("size") == "thumbnail" {
			of = d.Evidence.Thumbnail
		}
		kind, data, err := of(c.Context(), id(c), param(c, "photo"))
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, kind)
		c.Set(fiber.HeaderCacheControl, "private, max-age=86400, immutable")
		return c.Send(data)
	})
}

// reportRoutes are about what is said of a job's figures.
func (s *Server) reportRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/known", get(func(ctx ctx, _ fiber.Ctx) (*forecasting.Known, error) { return d.Forecasts.Known(ctx) }))
	api.Get("/jobs/:job/quote", get(func(ctx ctx, c fiber.Ctx) (any, error) {
		f, err := d.Forecasts.Offered(ctx, id(c))
		if err != nil {
			return nil, err
		}
		return d.Reports.Quote(ctx, id(c), c.Query("lang"), f)
	}))
	api.Get("/jobs/:job/quote/file", s.quoteFile)
	api.Put("/jobs/:job/quote",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.QuoteChange) (view, error) {
			return d.Visits.SetQuote(ctx, ch, id(c), in)
		}))
	type accepting struct {
		NewDrive bench.Drive `json:"new_drive"`
	}
	api.Put("/jobs/:job/accept",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in accepting) (view, error) {
			name, waits, err := d.Forecasts.Foretell(ctx, id(c), in.NewDrive)
			if err != nil {
				return nil, err
			}
			return d.Visits.Accept(ctx, ch, id(c), in.NewDrive, name, waits)
		}))
	api.Get("/jobs/:job/forecast", get(func(ctx ctx, c fiber.Ctx) (*forecast.Forecast, error) {
		var drives []string
		for _, v := range c.Request().URI().QueryArgs().PeekMulti("new") {
			drives = append(drives, string(v))
		}
		return d.Forecasts.Of(ctx, id(c), drives)
	}))
	api.Get("/settings/prices", func(c fiber.Ctx) error {
		c.Vary(fiber.HeaderAccept)
		if c.Accepts("text/csv", fiber.MIMEApplicationJSON) == fiber.MIMEApplicationJSON {
			list, err := d.Forecasts.Prices(c.Context())
			if err != nil {
				return err
			}
			return c.JSON(list)
		}
		table, err := d.Forecasts.PricesCSV(c.Context())
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, "text/csv; charset=utf-8")
		return c.Send(table)
	})
	api.Put("/settings/prices",
		change(s, 200, forecasting.MaxPrices,
			func(ctx ctx, ch *bench.Change, _ fiber.Ctx, in file) ([]forecasting.Priced, error) {
				return d.Forecasts.SetPrices(ctx, ch, in)
			}))
	api.Get("/jobs/:job/candidates", get(func(ctx ctx, c fiber.Ctx) (*reporting.Candidates, error) {
		return d.Reports.Candidates(ctx, id(c), c.Query("base"))
	}))
	api.Get("/jobs/:job/reference", get(func(ctx ctx, c fiber.Ctx) (*reporting.Reference, error) {
		return d.Reports.Reference(ctx, id(c), c.Query("number"), c.Query("setup"))
	}))
	api.Get("/jobs/:job/ledger", get(func(ctx ctx, c fiber.Ctx) (*reporting.Ledger, error) {
		return d.Reports.Compare(ctx, id(c), c.Query("then"), c.Query("with"), c.Query("intended"))
	}))
	api.Get("/jobs/:job/tests/:test/closer", get(func(ctx ctx, c fiber.Ctx) (*reporting.Closer, error) {
		return d.Reports.Closer(ctx, id(c), param(c, "test"))
	}))
	api.Get("/jobs/:job/report", get(func(ctx ctx, c fiber.Ctx) (*reporting.Report, error) {
		return d.Reports.Report(ctx, id(c), c.Query("lang"))
	}))
	api.Get("/jobs/:job/report/file", s.reportFile)
	type sharing struct {
		Days int `json:"days"`
	}
	api.Delete("/jobs/:job/reports/:revision",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			n, err := strconv.Atoi(param(c, "revision"))
			if err != nil {
				n = 0 // there is none such
			}
			return d.Reports.Withdraw(ctx, ch, id(c), n)
		}))
	api.Get("/jobs/:job/reports",
		get(func(ctx ctx, c fiber.Ctx) ([]reporting.Revision, error) { return d.Reports.Revisions(ctx, id(c)) }))
	api.Put("/jobs/:job/report/draft",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in reporting.Draft) (*bench.View, error) {
			return d.Reports.Choose(ctx, ch, id(c), in)
		}))
	api.Put("/jobs/:job/checks/:check",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.CheckByHand) (view, error) {
			return d.Swaps.TickCheck(ctx, ch, id(c), param(c, "check"), in)
		}))
	api.Post("/jobs/:job/probes/:probe/weigh",
		change(s, 200, 0, func(ctx ctx, _ *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.Weigh(ctx, id(c), param(c, "probe"))
		}))
	api.Get("/jobs/:job/layout", get(func(ctx ctx, c fiber.Ctx) (*swap.Way, error) {
		sizes, err := sizesOf(c.Query("sizes"))
		if err != nil {
			return nil, err
		}
		return d.Swaps.Own(ctx, id(c), sizes)
	}))
	api.Put("/jobs/:job/held",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in capacity.Result) (view, error) {
			return d.Swaps.Hold(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/sustained",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in job.Sustained) (view, error) {
			return d.Swaps.Sustain(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/fitting",
		get(func(ctx ctx, c fiber.Ctx) (*swap.Fitting, error) { return d.Swaps.Fitting(ctx, id(c)) }))
	api.Put("/jobs/:job/fitting",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Noting) (view, error) {
			return d.Swaps.Note(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/tasks",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Tasking) (view, error) {
			return d.Swaps.Begin(ctx, ch, id(c), in)
		}))
	api.Put("/jobs/:job/tasks/:task",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Tasking) (view, error) {
			return d.Swaps.Describe(ctx, ch, id(c), param(c, "task"), in)
		}))
	api.Put("/jobs/:job/tasks/:task/clock",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Clocking) (view, error) {
			return d.Swaps.Clock(ctx, ch, id(c), param(c, "task"), in)
		}))
	api.Get("/due", get(func(ctx ctx, _ fiber.Ctx) ([]followup.Due, error) { return d.Later.Due(ctx) }))
	api.Post("/jobs/:job/promises",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in followup.Promising) (view, error) {
			return d.Later.Promise(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/promises/:promise",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Later.Drop(ctx, ch, id(c), param(c, "promise"))
		}))
	api.Put("/jobs/:job/promises/:promise/answer",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in followup.Answering) (view, error) {
			return d.Later.Answer(ctx, ch, id(c), param(c, "promise"), in)
		}))
	api.Get("/jobs/:job/shares",
		get(func(ctx ctx, c fiber.Ctx) ([]reporting.Share, error) { return d.Reports.Shares(ctx, id(c)) }))
	api.Post("/jobs/:job/shares",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sharing) (shared, error) {
			made, err := d.Reports.MakeShare(ctx, ch, id(c), in.Days)
			if err != nil {
				return shared{}, err
			}
			return shared{made, s.addresses()[0].URL + "/r/" + made.Token, s.o.Open}, nil
		}))
	api.Delete("/jobs/:job/shares/:share",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]reporting.Share, error) {
			return d.Reports.Revoke(ctx, ch, id(c), param(c, "share"))
		}))
	api.Post("/jobs/:job/report",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*reporting.Report, error) {
			return d.Reports.Issue(ctx, ch, id(c), c.Query("lang"))
		}))
}

// shared is a link that was just made.
type shared struct {
	*reporting.Share
	URL string `json:"url"`
	// Open: the bench is reached from other computers at all.
	Open bool `json:"open"`
}

var unsafeInNames = regexp.MustCompile(`[^A-Za-z0-9._-]+`)

// export answers with a job as a job file, or as a zip with its pictures and clips.
func (s *Server) export(c fiber.Ctx) error {
	switch with := c.Query("with"); with {
	case "":
		number, data, err := s.desk.Files.Export(c.Context(), id(c))
		if err != nil {
			return err
		}
		attach(c, number, ".nowthen.json", fiber.MIMEOctetStream)
		return c.Send(data)
	case "media":
		z, err := s.desk.Files.ExportZip(c.Context(), id(c))
		if err != nil {
			return err
		}
		attach(c, z.Number, ".nowthen.zip", "application/zip")
		ctx := s.ctx // the request's own is used again while it is written
		return c.SendStreamWriter(func(w *bufio.Writer) {
			if err := errors.Join(z.Write(ctx, w), w.Flush()); err != nil {
				s.log.Error("an export with its media was cut off", "job", z.Number, "error", err)
			}
		})
	default:
		return bench.Refuse(bench.Invalid, "%q is not one of %s.", with, "media")
	}
}

// attach says that an answer is a file, named for a job's number.
func attach(c fiber.Ctx, number, ending, kind string) {
	name := unsafeInNames.ReplaceAllString(number, "_")
	if name == "" {
		name = "job"
	}
	c.Set(fiber.HeaderContentType, kind)
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s%s"`, name, ending))
}

// sizesOf reads sizes of partitions as a query has them: "3:512000000000,4:1000000", by number and bytes.
func sizesOf(text string) (map[int]int64, error) {
	sizes := map[int]int64{}
	const most = 128
	for part := range strings.SplitSeq(text, ",") {
		number, bytes, _ := strings.Cut(part, ":")
		n, errNumber := strconv.Atoi(number)
		b, errBytes := strconv.ParseInt(bytes, 10, 64)
		if text != "" && (errNumber != nil || errBytes != nil || n < 1 || b < 0) || len(sizes) >= most {
			return nil, bench.Refuse(bench.Invalid, "Give sizes as partition:bytes, such as 3:512000000000.")
		}
		if text != "" {
			sizes[n] = b
		}
	}
	return sizes, nil
}
