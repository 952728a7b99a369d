package server

import (
	"html/template"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// probeNames are the files for download: nothing else in the folder is served.
var probeNames = regexp.MustCompile(`^(nowthen-probe-(linux|windows|darwin)-(amd64|arm64|386)(\.exe)?|start-(linux\.sh|mac\.command|windows\.cmd)|SHA256SUMS)$`)

// downloadPage is plain HTML for the browsers of computers as they come in.
var downloadPage = template.Must(template.New("probe").Parse(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<meta name="robots" content="noindex">
<title>The probe for this computer</title>
</head>
<body bgcolor="#fbf8f1" text="#22282b">
<h1>The probe for this computer</h1>
{{if .Unsafe}}<p><b>The probe is not offered here.</b> This page came over plain HTTP, where somebody in the network could
have replaced the program or the line to type.</p>
<p>{{if .Outside}}Open <tt>{{.Page}}</tt> instead. The browser warns once, because the bench made its certificate itself. Or copy{{else}}Copy{{end}} the folder <tt>probes</tt> from the bench's own computer onto a stick.</p>
{{else}}{{if .Old}}<p><b>The probe does not run on this system ({{.System}}).</b> It needs Windows 10, macOS 12 or Linux 3.2, or later.
Time this computer with the finish line, by video or by hand.</p>
{{else if .Best}}<p><font size="5"><a href="/probe/{{.Best}}" download>{{.Best}}</a></font></p>
<p>It is one file; nothing is installed. Then run, with the code from the job's page:</p>
<pre>{{.Line}}</pre>
{{else if .Files}}<p>Which system this is, its browser does not say. Take the one that fits.</p>{{end}}
{{if .Files}}<p>For a stick: all of them, with a start file for each system.</p>
<ul>{{range .Files}}<li><a href="/probe/{{.}}" download>{{.}}</a></li>{{end}}</ul>
{{else}}<p>No probes lie beside this bench. <tt>make dist</tt> builds them; they go into the folder <tt>probes</tt> beside the program.</p>{{end}}{{end}}
</body>
</html>
`))

// visiting returns the probe for a browser's computer by its user agent: "" if unknown, with the system's name
// if none fits.
func visiting(agent string) (file, tooOld string) {
	has := func(s string) bool { return strings.Contains(agent, s) }
	switch {
	case has("Windows NT 5"), has("Windows NT 6"):
		return "", "Windows before 10"
	case has("Windows NT") && has("ARM64"):
		return "nowthen-probe-windows-arm64.exe", ""
	case has("Windows NT") && (has("Win64") || has("WOW64")):
		return "nowthen-probe-windows-amd64.exe", ""
	case has("Windows NT"):
		return "nowthen-probe-windows-386.exe", ""
	case has("iPhone"), has("iPad"), has("Android"):
		return "", ""
	case has("Linux x86_64"):
		return "nowthen-probe-linux-amd64", ""
	case has("Linux aarch64"):
		return "nowthen-probe-linux-arm64", ""
	case has("Linux i686"), has("Linux i586"):
		return "nowthen-probe-linux-386", ""
	}
	return "", "" // a Mac's browser does not say which processor it has
}

// runLine is how a downloaded probe is started.
func runLine(file, address string) string {
	if file == "" {
		return ""
	}
	if strings.HasSuffix(file, ".exe") {
		return file + " join " + address + " CODE"
	}
	return "chmod +x " + file + "\n./" + file + " join " + address + " CODE"
}

// probeFiles are the names of the files that are handed out.
func (s *Server) probeFiles() (files []string) {
	entries, _ := os.ReadDir(s.o.Probes) // none is none
	for _, e := range entries {
		if probeNames.MatchString(e.Name()) {
			files = append(files, e.Name())
		}
	}
	return files
}

// download serves the probes that lie beside the bench to whoever comes, where nobody in between could
// replace them: they hold nothing of the shop.
func (s *Server) download() {
	s.app.Get("/probe", func(c fiber.Ctx) error {
		files := s.probeFiles()
		file, old := visiting(c.Get(fiber.HeaderUserAgent))
		if !slices.Contains(files, file) {
			file = ""
		}
		c.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		c.Set("Cache-Control", "no-store")
		c.Type("html", "utf-8")
		address := ""
		if all := s.JoinAddresses(); len(all) > 0 {
			address = all[0]
		}
		return downloadPage.Execute(c.Response().BodyWriter(), struct {
			Best, Line, System, Page string
			Old, Unsafe, Outside     bool
			Files                    []string
		}{file, runLine(file, address), old, s.probePage(), old != "", !s.safe(c), s.joinedFromOutside(), files})
	})
	s.app.Get("/probe/:file", func(c fiber.Ctx) error {
		name := param(c, "file")
		if !probeNames.MatchString(name) || s.o.Probes == "" {
			return fiber.NewError(fiber.StatusNotFound, "There is no such probe.")
		}
		if !s.safe(c) {
			return fiber.NewError(fiber.StatusForbidden, "The probe is offered over TLS alone: "+s.probePage())
		}
		path := filepath.Join(s.o.Probes, name)
		if info, err := os.Stat(path); err != nil || !info.Mode().IsRegular() {
			return fiber.NewError(fiber.StatusNotFound, "There is no such probe beside this bench.")
		}
		return c.Download(path, name)
	})
}
