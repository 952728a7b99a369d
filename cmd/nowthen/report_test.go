package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestReportsFromAJobFile(t *testing.T) {
	file, dir := measuredTwice(t), t.TempDir()
	for name, begins := range map[string]string{"r.pdf": "%PDF-", "r.html": "<!doctype html>", "r.png": "\x89PNG",
		"r.json": "{", "r.csv": "kind,job,", "r.txt": ""} {
		out := filepath.Join(dir, name)
		code, stdout, errs := nowthen(t, "report", file, "-o", out, "--lang", "de", "--paper", "letter", "--length",
			"full")
		require.Zero(t, code, errs)
		assert.Empty(t, stdout)
		data, err := os.ReadFile(out)
		require.NoError(t, err)
		require.NotEmpty(t, data)
		assert.Equal(t, begins, string(data[:len(begins)]), name)
		if name == "r.txt" {
			assert.Contains(t, string(data), "Entwurf", "from a file it is a draft, and marked so")
		}
	}
	left, err := filepath.Glob(filepath.Join(dir, ".nowthen-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestReportRefusals(t *testing.T) {
	file, dir := measuredTwice(t), t.TempDir()
	for name, c := range map[string]struct {
		args []string
		code int
		says string
	}{
		"nowhere to":   {[]string{file}, exitRefused, "-o says"},
		"another form": {[]string{file, "-o", filepath.Join(dir, "x.doc")}, exitRefused, "no form"},
		"another language": {[]string{file, "-o", filepath.Join(dir, "x.pdf"), "--lang", "tlh"}, exitRefused,
			"en, de"},
		"another paper": {[]string{file, "-o", filepath.Join(dir, "x.pdf"), "--paper", "a5"}, exitRefused,
			"no paper"},
		"another length": {[]string{file, "-o", filepath.Join(dir, "x.pdf"), "--length", "short"}, exitRefused,
			"no length"},
		"a file's revision": {[]string{file, "-o", filepath.Join(dir, "x.pdf"), "--revision", "1"}, exitRefused,
			"draft"},
		"no such file": {[]string{filepath.Join(dir, "none.json"), "-o", filepath.Join(dir, "x.pdf")},
			exitRefused, "no such file"},
		"no such job":        {[]string{"2026-0099", "-o", filepath.Join(dir, "x.pdf"), "--data", dir}, exitFailed, ""},
		"a folder not there": {[]string{file, "-o", filepath.Join(dir, "no", "x.pdf")}, exitFailed, "writing"},
	} {
		t.Run(name, func(t *testing.T) {
			code, out, errs := nowthen(t, append([]string{"report"}, c.args...)...)
			assert.Equal(t, c.code, code, errs)
			assert.Empty(t, out)
			assert.NotEmpty(t, errs)
			assert.Contains(t, errs, c.says)
			_, err := os.Stat(filepath.Join(dir, "x.pdf"))
			assert.Error(t, err, "nothing is left of it")
		})
	}
}
