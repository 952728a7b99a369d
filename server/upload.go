package server

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/gofiber/fiber/v3"

	"nowthen/durable"
	"nowthen/machine"
)

// keepFree stays free on the drive while an upload comes in, bytes.
const keepFree = 1e9

// receive writes a request's body to a temporary file, and returns its digest. The file exists until done is
// called; a leftover is removed at the next start.
func (s *Server) receive(c fiber.Ctx, limit int64) (u upload, digest []byte, err error) {
	if c.Get(fiber.HeaderContentEncoding) != "" {
		return u, nil, fiber.NewError(fiber.StatusUnsupportedMediaType, "Bodies are taken as they are, not compressed.")
	}
	tooLarge := fiber.NewError(fiber.StatusRequestEntityTooLarge,
		fmt.Sprintf("That is larger than %s.", size(int(limit))))
	announced := int64(c.Request().Header.ContentLength())
	if announced > limit {
		return u, nil, tooLarge
	}
	dir := s.desk.Evidence.Dir()
	if dir == "" {
		dir = os.TempDir()
	} else if err := os.MkdirAll(dir, 0o700); err != nil {
		return u, nil, err
	}
	if free, err := machine.Free(dir); err == nil && announced > 0 && free-announced < keepFree {
		return u, nil, &full
	}
	folder, done, err := durable.Scratch(filepath.Join(dir, "upload"))
	if err != nil {
		return u, nil, err
	}
	u = upload{filepath.Join(folder, "body"), done}
	f, err := os.OpenFile(u.path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		done()
		return u, nil, err
	}
	var from io.Reader = c.Request().BodyStream()
	if c.Request().BodyStream() == nil {
		from = bytes.NewReader(c.Request().Body())
	}
	h := sha256.New()
	read := &broken{from: from}
	n, err := io.Copy(io.MultiWriter(f, h), io.LimitReader(read, limit+1))
	err = errors.Join(err, f.Close())
	switch {
	case read.err != nil:
		err = fiber.NewError(fiber.StatusBadRequest, "The request broke off.")
	case err == nil && n > limit:
		err = tooLarge
	}
	if err != nil {
		done()
		return u, nil, err
	}
	return u, h.Sum(nil), nil
}

// broken remembers why reading failed, to tell it from a failure to write.
type broken struct {
	from io.Reader
	err  error
}

func (b *broken) Read(p []byte) (int, error) {
	n, err := b.from.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		b.err = err
	}
	return n, err
}
