package probe

import (
	"bytes"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"mime"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/order"
)

// ErrLetGo means that the bench no longer knows the probe, or has disconnected it.
var ErrLetGo = errors.New("the bench no longer knows this probe, or has disconnected it")

// RefusedError means that a bench refused a message; sending it again would change nothing.
type RefusedError struct {
	Status     int
	Detail, Do string
}

func (e *RefusedError) Error() string { return strings.TrimSpace(e.Detail + " " + e.Do) }

// Bench is a bench as a probe communicates with it: outwards alone.
type Bench struct {
	// Address is where it is, without a slash at its end. Its fragment is the fingerprint of the bench's key
	// ([order.Pin]); one on this computer has none.
	Address string
	Token   string

	client *http.Client
	base   string
}

const (
	// answering is how long a bench has to answer; requests for work are long polls.
	answering = 40 * time.Second
	// maxAnswer bounds what a bench answers, bytes: a list of files in base64.
	maxAnswer = order.MostList*4/3 + 1<<20
	// slowest is a connection that still works, bytes/s: large messages have longer.
	slowest = 128 << 10
)

// ErrJoinAgain means that the connection to the bench is one on which another program could answer in its place.
var ErrJoinAgain = errors.New("this computer joined over plain HTTP, where another program could answer for the bench; " +
	"join again with the line from the job's page")

// NewBench returns the bench at an address, as the line to type gives it. Over plain HTTP that is a bench on
// this computer; every other one is known by the fingerprint of its key.
func NewBench(address, token string) (*Bench, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.User != nil ||
		u.Path != "" && u.Path != "/" || u.RawQuery != "" {
		return nil, fmt.Errorf("%q is not a bench's address; copy the whole line from the job's page", address)
	}
	t := http.DefaultTransport.(*http.Transport).Clone()
	t.Proxy = nil // the bench is in the same room
	if u.Scheme == "http" {
		if u.Fragment != "" || !hereByName(u.Hostname()) {
			return nil, fmt.Errorf("over plain HTTP another program could answer for the bench at %s; "+
				"copy the line that begins with https from the job's page", u.Host)
		}
		t.DialContext = (&net.Dialer{Timeout: answering, Control: onlyHere}).DialContext
	} else {
		if u.Fragment == "" {
			return nil, errors.New("the address lacks the fingerprint of the bench; " +
				"copy the whole line from the job's page, with what comes after the #")
		}
		ours, err := order.ParsePin(u.Fragment)
		if err != nil {
			return nil, err
		}
		// The bench made its certificate itself: the fingerprint of its key says who it is, and nothing else does.
		t.TLSClientConfig = &tls.Config{InsecureSkipVerify: true, MinVersion: tls.VersionTLS12,
			VerifyConnection: func(c tls.ConnectionState) error {
				if len(c.PeerCertificates) == 0 || !ours(c.PeerCertificates[0].RawSubjectPublicKeyInfo) {
					return errOtherKey
				}
				return nil
			}}
	}
	return &Bench{Address: address, Token: token, base: u.Scheme + "://" + u.Host,
		client: &http.Client{Transport: t,
			// A token is sent to the bench alone.
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}, nil
}

// errOtherKey means that the other side has a different key.
var errOtherKey = errors.New("the fingerprint doesn't match the line: it is another bench, or somebody in " +
	"between")

// hereByName reports whether a host is this computer.
func hereByName(host string) bool {
	ip := net.ParseIP(host)
	return strings.EqualFold(host, "localhost") || ip != nil && ip.IsLoopback()
}

// onlyHere refuses connections beyond this computer, whatever its name for itself leads to.
func onlyHere(_, address string, _ syscall.RawConn) error {
	host, _, err := net.SplitHostPort(address)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return fmt.Errorf("%s is not this computer", address)
	}
	return nil
}

// Join joins with a pairing code. Later calls use the probe's token.
func (b *Bench) Join(ctx context.Context, h order.Hello) (*order.Welcome, error) {
	w := &order.Welcome{}
	return b.welcomed(w, b.call(ctx, "POST", "join", h, w))
}

// Announce announces a computer with the key of a shop's stick; the bench is called with the offer's token from then on.
func (b *Bench) Announce(ctx context.Context, a order.Announcement) (*order.Offer, error) {
	o := &order.Offer{}
	if err := b.call(ctx, "POST", "announce", a, o); err != nil {
		return nil, err
	}
	if o.Token == "" || o.Digits == "" {
		return nil, errors.New("no bench answers there")
	}
	b.Token = o.Token
	return o, nil
}

// Admission asks whether the computer was admitted and returns nil where nobody has pressed yet. Once it was, the bench
// is called with the probe's token.
func (b *Bench) Admission(ctx context.Context) (*order.Welcome, error) {
	var w *order.Welcome
	if err := b.call(ctx, "GET", "admission", nil, &w); err != nil || w == nil {
		return nil, err
	}
	return b.welcomed(w, nil)
}

// Known reports why the bench doesn't know the probe with this token: [ErrLetGo] where it has let it go.
func (b *Bench) Known(ctx context.Context) error { return b.Say(ctx, "progress", order.Progress{}) }

// Answers reports why no bench answers at the address, nil where one does.
func (b *Bench) Answers(ctx context.Context) error {
	ctx, stop := context.WithTimeout(ctx, answering)
	defer stop()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, b.base+"/probe", nil)
	if err != nil {
		return err
	}
	res, err := b.client.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return b.noBench(res)
	}
	return nil
}

// welcomed takes the token of a probe that was taken.
func (b *Bench) welcomed(w *order.Welcome, err error) (*order.Welcome, error) {
	if err != nil {
		return nil, err
	}
	if w.Token == "" || w.Probe == "" {
		return nil, errors.New("no bench answers there")
	}
	b.Token = w.Token
	return w, nil
}

// Hello announces a probe that is back.
func (b *Bench) Hello(ctx context.Context, h order.Hello) (*order.Welcome, error) {
	w := &order.Welcome{}
	return w, b.call(ctx, "POST", "hello", h, w)
}

// Work asks for something to do and returns nil if there is nothing yet. doing is the current order, "" if
// none.
func (b *Bench) Work(ctx context.Context, doing string) (*order.Order, error) {
	var o *order.Order
	return o, b.call(ctx, "GET", "work?doing="+url.QueryEscape(doing), nil, &o)
}

// listed is where the bench has the list of the old drive's files.
const listed = "list"

// Listed returns the list of the old drive's files that the bench has.
func (b *Bench) Listed(ctx context.Context) (*order.FileList, error) {
	l := &order.FileList{}
	if err := b.call(ctx, "GET", listed, nil, l); err != nil {
		return nil, err
	}
	return l, l.Check()
}

// Say sends a message without an answer: what is one of progress, looked, runs, ended, left.
func (b *Bench) Say(ctx context.Context, what string, v any) error {
	return b.call(ctx, "POST", what, v, nil)
}

// Sign sends a sign before or after a restart, and returns the bench's clock from its answer.
func (b *Bench) Sign(ctx context.Context, sign order.Sign) (*order.Clock, error) {
	c := &order.Clock{}
	return c, b.call(ctx, "POST", "sign", sign, c)
}

func (b *Bench) call(ctx context.Context, method, what string, in, out any) error {
	var sent io.Reader
	most := 0
	if in != nil {
		text, err := json.Marshal(in)
		if err != nil {
			return err
		}
		sent, most = bytes.NewReader(text), len(text)
	} else if what == listed {
		most = maxAnswer
	}
	ctx, stop := context.WithTimeout(ctx, answering+time.Duration(most/slowest)*time.Second)
	defer stop()
	req, err := http.NewRequestWithContext(ctx, method, b.base+"/api/probe/"+what, sent)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	if b.Token != "" {
		req.Header.Set("Authorization", "Bearer "+b.Token)
	}
	res, err := b.client.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	text, err := io.ReadAll(io.LimitReader(res.Body, maxAnswer))
	if err != nil {
		return err
	}
	switch {
	case res.StatusCode >= 400:
		return b.refusal(res, text)
	case res.StatusCode >= 300 || out == nil && len(text) > 0 && !jsontext.Value(text).IsValid() || out == nil &&
		len(text) == 0 && res.Header.Get("Content-Type") != "":
		// A page of a proxy or of another device must not be mistaken for a confirmation.
		return b.noBench(res)
	}
	if out == nil || len(bytes.TrimSpace(text)) == 0 {
		return nil
	}
	if err := json.Unmarshal(text, out); err != nil {
		return fmt.Errorf("the answer of %s can't be read: %w", b.base, err)
	}
	return nil
}

// problemPrefix begins the type of each problem that a bench answers (RFC 9457).
const problemPrefix = "urn:nowthen:problem:"

// final are the problems of a bench that repeating wouldn't change. Others are temporary: a bench that is busy,
// damaged or addressed by another name may be fixed.
var final = []string{"invalid", "conflict", "missing", "doubtful", "lacking", "bad-request", "too-large", "key-reused"}

// noBench means that what answered is no bench.
func (b *Bench) noBench(res *http.Response) error {
	return fmt.Errorf("%s answers with %s; it isn't a bench", b.base, res.Status)
}

// refusal returns why a bench refused something: [ErrLetGo], a [*RefusedError], or an ordinary error for a
// temporary problem, such as an answer from another device or a proxy.
func (b *Bench) refusal(res *http.Response, text []byte) error {
	var p struct {
		Type   string `json:"type"`
		Detail string `json:"detail"`
		Do     string `json:"do"`
	}
	kind, _, _ := mime.ParseMediaType(res.Header.Get("Content-Type"))
	ours := kind == "application/problem+json" && json.Unmarshal(text, &p) == nil &&
		strings.HasPrefix(p.Type, problemPrefix)
	if !ours {
		return b.noBench(res)
	}
	name := strings.TrimPrefix(p.Type, problemPrefix)
	switch {
	case name == "sign-in" && b.Token != "":
		return ErrLetGo
	case name == "join-again":
		return ErrJoinAgain
	case slices.Contains(final, name):
		return &RefusedError{Status: res.StatusCode, Detail: p.Detail, Do: p.Do}
	}
	return fmt.Errorf("the bench answered %d: %s", res.StatusCode, p.Detail)
}
