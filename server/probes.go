package server

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/gofiber/fiber/v3"

	"nowthen/access/slow"
	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/bench/swap"
	"nowthen/core/manifest"
	"nowthen/core/order"
)

// probePaths begins the paths of the probes' API, which checks their token, not the technician's session.
const probePaths = "/api/probe/"

// waiting is the longest long poll of a probe.
const waiting = 25 * time.Second

// maxList bounds a list of files that a probe sends, bytes: it is in base64.
const maxList = order.MostList*4/3 + 1<<20

// maxRun bounds a run that a probe sends, with its series, bytes.
const maxRun = 8 << 20

// pairing is a code with the lines by which a probe joins.
type pairing struct {
	*probes.Pairing
	// Lines are what is typed on the customer's computer, one for each address of the bench,
	// those that others reach first; none where somebody in between could have changed them.
	Lines []string `json:"lines"`
	// Page is the address of the probe's download page.
	Page string `json:"page"`
	// Open: other computers reach the bench's port for probes.
	Open bool `json:"open"`
}

// joinLines are the lines by which a probe joins with a code, for whom nobody in between could have changed them.
func (s *Server) joinLines(c fiber.Ctx, code string) []string {
	lines := []string{}
	if !s.safe(c) {
		return lines
	}
	for _, a := range s.JoinAddresses() {
		lines = append(lines, "nowthen-probe join "+a+" "+code)
	}
	return lines
}

// probeRoutes are about probes: the pages' routes, and the probes' own.
func (s *Server) probeRoutes(api fiber.Router) {
	d := s.desk
	type about struct {
		Setup   string `json:"setup"`
		Instead bool   `json:"instead"` // of what was noted, where it differs
	}
	type doing struct {
		Do string `json:"do"`
	}
	api.Post("/jobs/:job/pairing",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (pairing, error) {
			p, err := d.Probes.Pair(ctx, ch, id(c))
			if err != nil {
				return pairing{}, err
			}
			return pairing{p, s.joinLines(c, p.Code), s.probePage(), s.joinedFromOutside()}, nil
		}))
	api.Get("/jobs/:job/probes",
		get(func(ctx ctx, c fiber.Ctx) ([]probes.Probe, error) { return d.Probes.Of(ctx, id(c)) }))
	api.Delete("/jobs/:job/probes/:probe",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.Dismiss(ctx, ch, id(c), param(c, "probe"))
		}))
	api.Post("/jobs/:job/probes/:probe/stay",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.Stay(ctx, ch, id(c), param(c, "probe"))
		}))
	api.Get("/jobs/:job/probes/:probe/conditions", get(func(ctx ctx, c fiber.Ctx) (*probes.Seen, error) {
		ctx, stop := context.WithCancel(ctx) // it is waited for, but not while the program is being ended
		defer stop()
		defer context.AfterFunc(s.ctx, stop)()
		return d.Probes.Conditions(ctx, id(c), param(c, "probe"), c.Query("dir"))
	}))
	api.Put("/jobs/:job/carried",
		change(s, 200, maxCarried,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in manifest.Difference) (*bench.View, error) {
				return d.Swaps.Carry(ctx, ch, id(c), in)
			}))
	api.Get("/jobs/:job/swap", get(func(ctx ctx, c fiber.Ctx) (*swap.View, error) { return d.Swaps.Of(ctx, id(c)) }))
	api.Post("/jobs/:job/probes/:probe/refresh",
		change(s, 200, 0, func(ctx ctx, _ *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.Refresh(ctx, id(c), param(c, "probe"))
		}))
	api.Post("/jobs/:job/probes/:probe/facts",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in about) (view, error) {
			return d.Probes.TakeFacts(ctx, ch, id(c), param(c, "probe"), in.Setup, in.Instead)
		}))
	api.Post("/jobs/:job/probes/:probe/starts",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in probes.StartsRequest) (view, error) {
			return d.Probes.TakeStarts(ctx, ch, id(c), param(c, "probe"), in)
		}))
	api.Post("/jobs/:job/probes/:probe/doings",
		change(s, 200, 0, func(ctx ctx, _ *bench.Change, c fiber.Ctx, in doing) ([]probes.Probe, error) {
			return d.Probes.Do(ctx, id(c), param(c, "probe"), in.Do)
		}))
	api.Put("/jobs/:job/probes/:probe/check",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in probes.CheckRequest) ([]probes.Probe, error) {
			return d.Probes.Check(ctx, ch, id(c), param(c, "probe"), in)
		}))
	api.Put("/jobs/:job/probes/:probe/files",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in probes.FilesRequest) ([]probes.Probe, error) {
			return d.Probes.Files(ctx, ch, id(c), param(c, "probe"), in)
		}))
	api.Delete("/jobs/:job/probes/:probe/check",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.StopCheck(ctx, ch, id(c), param(c, "probe"))
		}))

	api.Post("/probe/join", func(c fiber.Ctx) error {
		h, err := said[order.Hello](c, maxCommand)
		if err != nil {
			return err
		}
		w, err := d.Probes.Join(c.Context(), h, client(c))
		if err != nil {
			return slowed(c, err)
		}
		c.Location(probePaths + "work")
		return answer(c, 201, w)
	})
	api.Post("/probe/hello",
		heard(s, maxCommand, func(ctx ctx, p sender, h order.Hello) (*order.Welcome, error) {
			return d.Probes.Back(ctx, p.probe, h)
		}))
	api.Post("/probe/progress", heard(s, maxCommand, func(ctx ctx, p sender, in order.Progress) (none, error) {
		return none{}, d.Rounds.Progressed(ctx, p.probe, p.job, in)
	}))
	api.Post("/probe/sign",
		heard(s, maxCommand, func(_ ctx, p sender, in order.Sign) (*order.Clock, error) {
			return d.Rounds.Signed(p.job, in), nil
		}))
	api.Post("/probe/looked", heard(s, maxCommand, func(_ ctx, p sender, in order.Facts) (none, error) {
		d.Probes.Looked(p.probe, in)
		return none{}, nil
	}))
	api.Post("/probe/weighed", heard(s, maxCommand, func(ctx ctx, p sender, in order.Weighed) (none, error) {
		return none{}, d.Probes.Heaviest(ctx, p.probe, in)
	}))
	api.Post("/probe/checked", heard(s, maxCommand, func(ctx ctx, p sender, in order.Checked) (none, error) {
		s.noteGraphics(p.address, &in)
		return none{}, d.Swaps.Checked(ctx, p.probe, in)
	}))
	api.Post("/probe/listed", heard(s, maxList, func(ctx ctx, p sender, in order.FileList) (none, error) {
		return none{}, d.Swaps.Listed(ctx, p.probe, in)
	}))
	api.Get("/probe/list", func(c fiber.Ctx) error {
		p, err := s.known(c)
		if err != nil {
			return err
		}
		l, err := d.Swaps.List(c.Context(), p.job)
		if err != nil {
			return err
		}
		return answer(c, 200, l)
	})
	api.Post("/probe/compared", heard(s, maxCarried, func(ctx ctx, p sender, in order.Compared) (none, error) {
		return none{}, d.Swaps.Compared(ctx, p.probe, in)
	}))
	api.Post("/probe/runs", heard(s, maxRun, func(ctx ctx, p sender, in order.Result) (none, error) {
		return none{}, d.Rounds.Finished(ctx, p.probe, p.job, in)
	}))
	api.Post("/probe/ended", heard(s, maxCommand, func(ctx ctx, p sender, in order.Ended) (none, error) {
		return none{}, d.Rounds.Ended(ctx, p.probe, in)
	}))
	api.Post("/probe/left",
		heard(s, maxCommand, func(ctx ctx, p sender, _ struct{}) (none, error) {
			return none{}, d.Probes.Left(ctx,
				p.probe)
		}))
	api.Get("/probe/work", func(c fiber.Ctx) error {
		p, err := s.known(c)
		if err != nil {
			return err
		}
		return s.hold(c, func(ctx ctx) (any, error) {
			o, err := d.Rounds.Work(ctx, p.probe, c.Query("doing"))
			if o == nil {
				return nil, err
			}
			return o, err
		})
	})
}

// slowed adds to a refusal of too many attempts when the next one may come.
func slowed(c fiber.Ctx, err error) error {
	var tooOften slow.Error
	if !errors.As(err, &tooOften) {
		return err
	}
	c.Set(fiber.HeaderRetryAfter, fmt.Sprint(int(tooOften.Wait.Seconds()+0.999)))
	return fiber.NewError(fiber.StatusTooManyRequests, bench.Sentence(err))
}

// hold answers a probe's question once there is something to say, or with null after a while.
func (s *Server) hold(c fiber.Ctx, ask func(ctx context.Context) (any, error)) error {
	ctx, stop := context.WithTimeout(s.ctx, waiting)
	defer stop()
	out, err := ask(ctx)
	if err != nil {
		return err
	}
	if s.ctx.Err() != nil && out == nil {
		// Who asks again at once would hold the program up.
		c.RequestCtx().SetConnectionClose()
		return fiber.NewError(fiber.StatusServiceUnavailable, "The bench is shutting down.")
	}
	return answer(c, 200, out)
}

// sender is a probe that is known by its token.
type sender struct {
	probe, job string
	address    string // of its computer
}

// known returns the probe whose token a request carries.
func (s *Server) known(c fiber.Ctx) (sender, error) {
	token, ok := strings.CutPrefix(c.Get(fiber.HeaderAuthorization), "Bearer ")
	if !ok {
		return sender{}, fiber.NewError(fiber.StatusUnauthorized, "A probe says which one it is by its token.")
	}
	probe, job, err := s.desk.Probes.Known(c.Context(), token)
	if errors.Is(err, probes.ErrUnknown) {
		return sender{}, fiber.NewError(fiber.StatusUnauthorized,
			"The bench does not know this probe, or has let it go.")
	}
	return sender{probe, job, c.IP()}, err
}

// heard is the handler of a probe's message. A repeat changes nothing.
func heard[In, Out any](s *Server, limit int,
	do func(ctx context.Context, p sender, in In) (Out, error)) fiber.Handler {
	return func(c fiber.Ctx) error {
		p, err := s.known(c)
		if err != nil {
			return err
		}
		in, err := said[In](c, limit)
		if err != nil {
			return err
		}
		out, err := do(c.Context(), p, in)
		if err != nil {
			return err
		}
		return answer(c, fiber.StatusOK, out)
	}
}

// said reads a probe's message. Unknown members come from a newer version and are ignored.
func said[In any](c fiber.Ctx, limit int) (in In, err error) {
	if err := wantsJSON(c); err != nil {
		return in, err
	}
	sent, err := body(c, limit)
	if err != nil {
		return in, err
	}
	if err := json.Unmarshal(sent, &in); err != nil {
		return in, &bench.Refusal{Kind: bench.Invalid,
			Message: fmt.Sprintf("The probe's message can't be read: %s", err.Error()), Kept: "Nothing was changed."}
	}
	return in, nil
}
