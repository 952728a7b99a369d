package server

import (
	"errors"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/core/plan"
	"nowthen/store"
)

// problem is an error as it is answered (RFC 9457), with what was kept and what to do.
type problem struct {
	// Type identifies the problem for programs; it never changes.
	Type     string `json:"type"`
	Title    string `json:"title"`
	Status   int    `json:"status"`
	Detail   string `json:"detail"`
	Instance string `json:"instance"`

	Kept    string            `json:"kept,omitempty"`
	Do      string            `json:"do,omitempty"`
	Fields  map[string]string `json:"fields,omitempty"`
	Lost    []plan.Lost       `json:"lost,omitempty"`
	Ask     *bench.Ask        `json:"ask,omitempty"`
	Already *bench.Already    `json:"already,omitempty"`
	// Current is the current job, if the change was meant for an earlier revision.
	Current any `json:"current,omitzero"`
}

// typeOf names a problem.
func typeOf(name string) string { return "urn:nowthen:problem:" + name }

// kinds are the problems that the bench's refusals are.
var kinds = map[bench.Kind]struct {
	status int
	title  string
}{
	bench.Invalid:  {fiber.StatusUnprocessableEntity, "Invalid input"},
	bench.Conflict: {fiber.StatusConflict, "This conflicts with current data"},
	bench.Missing:  {fiber.StatusNotFound, "Not found"},
	bench.Stale:    {fiber.StatusPreconditionFailed, "Changed in the meantime"},
	bench.Doubtful: {fiber.StatusConflict, "A value looks wrong"},
	bench.Lacking:  {fiber.StatusConflict, "Something is missing"},
	bench.Damaged:  {fiber.StatusInternalServerError, "Damaged data"},
}

// statuses are the problems that requests themselves have.
var statuses = map[int]struct{ name, title string }{
	fiber.StatusBadRequest:            {"bad-request", "The request can’t be read"},
	fiber.StatusUnauthorized:          {"sign-in", "Sign in first"},
	fiber.StatusForbidden:             {"forbidden", "Not allowed"},
	fiber.StatusNotFound:              {"missing", "Not found"},
	fiber.StatusMethodNotAllowed:      {"method", "Method not allowed"},
	fiber.StatusRequestEntityTooLarge: {"too-large", "Too large"},
	fiber.StatusUnsupportedMediaType:  {"media-type", "Wrong media type"},
	fiber.StatusMisdirectedRequest:    {"address", "Wrong address"},
	fiber.StatusUnprocessableEntity:   {"invalid", "Invalid input"},
	fiber.StatusConflict:              {"conflict", "This conflicts with current data"},
	fiber.StatusTooManyRequests:       {"too-many", "Too many requests"},
}

// keyReused says that an Idempotency-Key was used for something else.
var keyReused = problem{Type: typeOf("key-reused"), Title: "The key was used for another request",
	Status: fiber.StatusUnprocessableEntity,
	Detail: "This Idempotency-Key was sent before with another request.", Kept: "Nothing was changed.", Do: "Use a new key for a new command."}

// full means that the data's drive has no space for a change.
var full = problem{Type: typeOf("failed"), Title: "No room left", Status: fiber.StatusInternalServerError,
	Detail: "The drive that holds the bench's data is full.", Kept: "Everything stored before is kept. This was not " +
		"stored.", Do: "Free some space on that drive, then try again."}

// problemOf turns an error into what is answered.
func (s *Server) problemOf(c fiber.Ctx, err error) problem {
	var refused *bench.Refusal
	var coded *fiber.Error
	var own *problem
	switch {
	case errors.As(err, &own):
		return *own
	case errors.Is(err, store.ErrOtherCommand):
		return keyReused
	case store.IsFull(err):
		s.log.Error("there is no room for what comes in", "error", err)
		return full
	case store.IsDamaged(err):
		s.log.Error("the database is damaged", "method", c.Method(), "path", c.Path(), "error", err)
		return problem{Type: typeOf(string(bench.Damaged)), Title: kinds[bench.Damaged].title,
			Status: kinds[bench.Damaged].status,
			Detail: "A part of the database is damaged and can't be read.", Kept: "What can still be read is unharmed.", Do: s.o.Backups.HowToRestore()}
	case errors.As(err, &refused):
		k := kinds[refused.Kind]
		p := problem{Type: typeOf(string(refused.Kind)), Title: k.title, Status: k.status, Detail: refused.Message,
			Kept: refused.Kept, Do: refused.Do,
			Fields: refused.Fields, Lost: refused.Lost, Ask: refused.Ask, Already: refused.Already}
		if refused.Kind == bench.Damaged {
			s.log.Error("a job is damaged", "path", c.Path(), "error", refused.Message)
			p.Do = s.o.Backups.HowToRestore()
		}
		if v := refused.Current; v != nil {
			c.Set(fiber.HeaderETag, etag(v.Revision))
			p.Current = v
			if noRuns(c) {
				p.Current = v.WithoutRuns()
			}
		}
		return p
	case errors.As(err, &coded):
		if known, ok := statuses[coded.Code]; ok {
			return problem{Type: typeOf(known.name), Title: known.title, Status: coded.Code, Detail: coded.Message}
		}
		return problem{Type: "about:blank", Title: coded.Message, Status: coded.Code, Detail: coded.Message}
	}
	s.log.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	return problem{Type: typeOf("failed"), Title: "Something went wrong on the bench's side",
		Status: fiber.StatusInternalServerError,
		Detail: "Something went wrong on the bench's side.", Kept: "Everything that was stored before is kept.", Do: "Try again. If it happens again, look in the program’s log."}
}

func (p *problem) Error() string { return p.Detail }

const (
	unread  = 64 << 10 // bytes of a refused body that may still come
	chunked = -1       // the length of a body that does not say its own
)

// fail answers an error.
func (s *Server) fail(c fiber.Ctx, err error) error {
	p := s.problemOf(c, err)
	if p.Status == fiber.StatusNotFound || p.Status == fiber.StatusMethodNotAllowed {
		// A route that exists for other methods says which.
		if allowed := s.allowed(c.Path()); len(allowed) > 0 && !allowed[c.Method()] {
			c.Set(fiber.HeaderAllow, strings.Join(sorted(allowed), ", "))
			known := statuses[fiber.StatusMethodNotAllowed]
			p = problem{Type: typeOf(known.name), Title: known.title, Status: fiber.StatusMethodNotAllowed,
				Detail: "This address doesn’t take " + c.Method() + "."}
		}
	}
	p.Instance = c.Path()
	if n := c.Request().Header.ContentLength(); n > unread || n == chunked {
		c.RequestCtx().SetConnectionClose() // what has not been read of a large body never will be
	}
	text, err := json.Marshal(&p)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "application/problem+json")
	return c.Status(p.Status).Send(text)
}
