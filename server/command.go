package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/planning"
	"nowthen/bench/reporting"
	"nowthen/bench/timing"
	"nowthen/store"
)

// Bounds of bodies, in bytes.
const (
	maxCarried = 32 << 20 // what a manifest's comparison prints: five lists of a thousand paths
	maxCommand = 1 << 20  // what is said in JSON
	maxKey     = 200      // of an Idempotency-Key
)

// none is the input of a command without a body.
type none struct{}

// file is the input of a command whose body is a file.
type file []byte

// upload is the input of a command whose body is a file that may be larger than memory: it is on
// the drive until the command has ended.
type upload struct {
	path string
	done func()
}

// maxUpload is how large one is, bytes: a job with all its clips.
const maxUpload = 64 << 30

// change is the handler of a command: it reads and checks the input, calls the use case, and answers with its
// output. A repeat gets the first answer again.
//
//	status  answered where it was done
//	limit   of the body, bytes; 0 is that of a command
func change[In, Out any](s *Server, status, limit int,
	do func(ctx context.Context, ch *bench.Change, c fiber.Ctx, in In) (Out, error)) fiber.Handler {
	return func(c fiber.Ctx) error {
		in, sent, err := input[In](s, c, limit)
		if err != nil {
			return err
		}
		if u, ok := any(in).(upload); ok {
			defer u.done()
		}
		key := c.Get("Idempotency-Key")
		if len(key) > maxKey {
			return fiber.NewError(fiber.StatusBadRequest,
				fmt.Sprintf("The Idempotency-Key has %d characters; %d are taken.", len(key), maxKey))
		}
		cmd := store.NewCommand(s.caller(c), c.Method()+" "+c.Path(), key, c.Request().URI().QueryString(), sent)
		var out Out
		if err = s.commands.Done(c.Context(), cmd); err == nil {
			out, err = do(c.Context(), bench.NewChange(cmd, ifMatch(c)), c, in)
		}
		made := cmd.Made()
		var before *store.Repeated
		if errors.As(err, &before) {
			made = before.Made
			out, err = again[Out](c.Context(), s, before)
		}
		if err != nil {
			return err
		}
		if made != "" && status == fiber.StatusCreated {
			c.Location("/api/" + made)
		}
		return answer(c, status, out)
	}
}

// get is the handler of a query.
func get[Out any](do func(ctx context.Context, c fiber.Ctx) (Out, error)) fiber.Handler {
	return func(c fiber.Ctx) error {
		out, err := do(c.Context(), c)
		if err != nil {
			return err
		}
		return answer(c, fiber.StatusOK, out)
	}
}

// input reads the body of a command. It refuses unknown members: a misspelt one must not be silently ignored.
func input[In any](s *Server, c fiber.Ctx, limit int) (in In, sent []byte, err error) {
	switch any(in).(type) {
	case none:
		return in, nil, nil
	case upload:
		u, digest, err := s.receive(c, int64(limit))
		if err != nil {
			return in, nil, err
		}
		return any(u).(In), digest, nil
	}
	if limit == 0 {
		limit = maxCommand
	}
	_, isFile := any(in).(file)
	if err := wantsJSON(c); !isFile && err != nil {
		return in, nil, err
	}
	if sent, err = body(c, limit); err != nil {
		return in, nil, err
	}
	if isFile {
		return any(file(sent)).(In), sent, nil
	}
	if err := json.Unmarshal(sent, &in, json.RejectUnknownMembers(true)); err != nil {
		return in, nil, &bench.Refusal{Kind: bench.Invalid,
			Message: fmt.Sprintf("The request can’t be read: %s", err.Error()), Kept: "Nothing was changed.",
			Do: "Correct it and try again."}
	}
	return in, sent, nil
}

// wantsJSON refuses a body that is not said to be JSON.
func wantsJSON(c fiber.Ctx) error {
	if kind, _, _ := mime.ParseMediaType(c.Get(fiber.HeaderContentType)); kind != fiber.MIMEApplicationJSON {
		return fiber.NewError(fiber.StatusUnsupportedMediaType, "This wants application/json.")
	}
	return nil
}

// body reads a request's body, up to a limit. Bodies are read here alone, after
// sign-in.
func body(c fiber.Ctx, limit int) ([]byte, error) {
	tooLarge := fiber.NewError(fiber.StatusRequestEntityTooLarge, fmt.Sprintf("That is larger than %s.", size(limit)))
	if c.Request().Header.ContentLength() > limit {
		return nil, tooLarge
	}
	if c.Get(fiber.HeaderContentEncoding) != "" {
		return nil, fiber.NewError(fiber.StatusUnsupportedMediaType, "Bodies are taken as they are, not compressed.")
	}
	stream := c.Request().BodyStream()
	if stream == nil {
		return slices.Clone(c.Request().Body()), nil
	}
	b, err := io.ReadAll(io.LimitReader(stream, int64(limit)+1))
	switch {
	case err != nil:
		return nil, fiber.NewError(fiber.StatusBadRequest, "The request broke off.")
	case len(b) > limit:
		return nil, tooLarge
	}
	return b, nil
}

func size(n int) string {
	if n >= 1<<20 {
		return fmt.Sprintf("%d MiB", n>>20)
	}
	return fmt.Sprintf("%d KiB", n>>10)
}

// ifMatch reads the revision that a change is meant for; nil is any.
func ifMatch(c fiber.Ctx) *int64 {
	want := strings.TrimSpace(c.Get(fiber.HeaderIfMatch))
	if want == "" || want == "*" {
		return nil
	}
	n, err := strconv.ParseInt(strings.Trim(want, `"`), 10, 64)
	if err != nil || !strings.HasPrefix(want, `"`) {
		n = -1 // none of the bench's: it matches nothing
	}
	return &n
}

func etag(revision int64) string { return fmt.Sprintf(`"%d"`, revision) }

// again returns the answer to a repeated command: the current state, if that is what it answers.
func again[Out any](ctx context.Context, s *Server, before *store.Repeated) (out Out, err error) {
	switch o := any(&out).(type) {
	case **bench.View:
		*o, err = s.desk.Jobs.View(ctx, before.Job)
	case **planning.Changed:
		v, err := s.desk.Jobs.View(ctx, before.Job)
		if err != nil {
			return out, err
		}
		*o = &planning.Changed{}
		return out, (*o).Repeat(v, before.Answer)
	case **timing.Timer:
		*o, err = s.desk.Timers.Timer(ctx, before.Job)
	case **reporting.Report:
		*o, err = s.desk.Reports.Report(ctx, before.Job, "")
	default:
		if len(before.Answer) > 0 {
			err = json.Unmarshal(before.Answer, &out)
		}
		switch o := any(&out).(type) { // what was made is told once: no secret is stored
		case *pairing:
			o.Lines, o.Page, o.Open = []string{}, s.probePage(), s.joinedFromOutside()
		case *shared:
			o.Open = s.open()
		}
	}
	return out, err
}

// answer answers with a value; none is no content.
func answer(c fiber.Ctx, status int, v any) error {
	switch as := v.(type) {
	case none:
		return c.SendStatus(fiber.StatusNoContent)
	case *bench.View:
		c.Set(fiber.HeaderETag, etag(as.Revision))
		if noRuns(c) {
			v = as.WithoutRuns()
		}
	case *planning.Changed:
		c.Set(fiber.HeaderETag, etag(as.Revision))
		if noRuns(c) {
			v = struct {
				*bench.Bare
				Notice string `json:"notice"`
			}{as.WithoutRuns(), as.Notice}
		}
	}
	text, err := json.Marshal(v)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSON)
	c.Status(status).Response().SetBodyRaw(text)
	return nil
}

// noRuns reports whether a job is wanted without its runs.
func noRuns(c fiber.Ctx) bool { return c.Query("runs") == "none" }

// maxPage is how many entries of a list are asked for at most.
const maxPage = 1000

// paging reads which page of a list is asked for: how many entries, 0 for as many as one answer
// holds, after the one that the cursor names, "" for the first ones. All lists are asked so.
func paging(c fiber.Ctx) (after string, limit int, err error) {
	after, text := c.Query("cursor"), c.Query("limit")
	if text == "" {
		return after, 0, nil
	}
	if limit, err = strconv.Atoi(text); err != nil || limit < 1 || limit > maxPage {
		return "", 0, bench.Refuse(bench.Invalid, "Give a limit from 1 to %d.", maxPage)
	}
	return after, limit, nil
}

// page cuts one page out of a list: limit entries after the one that the cursor names.
// The way to the next one is a Link (RFC 8288).
func page[T any](c fiber.Ctx, list []T, key func(T) string) ([]T, error) {
	after, limit, err := paging(c)
	if err != nil {
		return nil, err
	}
	if limit == 0 {
		limit = len(list)
	}
	if after != "" {
		at := slices.IndexFunc(list, func(v T) bool { return key(v) == after })
		if at < 0 {
			return nil, bench.Refuse(bench.Invalid, "That cursor does not come from an earlier answer.")
		}
		list = list[at+1:]
	}
	if len(list) > limit {
		list = list[:limit]
		nextPage(c, key(list[limit-1]))
	}
	return list, nil
}

// nextPage says where a list continues.
func nextPage(c fiber.Ctx, cursor string) {
	if cursor == "" {
		return
	}
	q := c.Request().URI().QueryArgs()
	q.Set("cursor", cursor)
	c.Set(fiber.HeaderLink, fmt.Sprintf(`<%s?%s>; rel="next"`, c.Path(), q.QueryString()))
}

func sorted(set map[string]bool) []string { return slices.Sorted(maps.Keys(set)) }
