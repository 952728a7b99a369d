package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/job"
)

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
		// Relation is how it joins the computer; "" is unknown.
		Relation job.Relation `json:"relation"`
		// DriveID is a drive of the job, connected in another way.
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
