// Command demo fills a data folder with the demonstration's made-up jobs and clips, and ends. Tests
// that run with the race
// detector have it made by this program, which runs without: measuring simulated drives takes
// fifteen times as long with it, and
// each package that measures is run with the race detector anyway.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"nowthen/backup"
	"nowthen/bench/demo"
	"nowthen/store"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: demo FOLDER")
		os.Exit(2)
	}
	if err := fill(context.Background(), os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "demo:", err)
		os.Exit(1)
	}
}

func fill(ctx context.Context, dir string) error {
	st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true})
	if err != nil {
		return err
	}
	return errors.Join(demo.Fill(ctx, st, filepath.Join(dir, backup.Clips)), st.Close())
}
