package server

import (
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"maps"
	"os"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/evidence"
	"nowthen/bench/followup"
	"nowthen/bench/forecasting"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/probes"
	"nowthen/bench/reporting"
	"nowthen/bench/sittings"
	"nowthen/bench/stick"
	"nowthen/bench/swap"
	"nowthen/bench/timing"
	"nowthen/bench/visit"
	"nowthen/core/capacity"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/core/plan"
	"nowthen/machine"
)

// A shape is what a schema, or a Go type as JSON has it, lets through.
type shape struct {
	kind     string // string number integer boolean array object any
	null     bool
	enum     []string
	of       func() shape            // of an array's items, or of a map's values
	members  map[string]func() shape // of an object
	required []string
}

// members are the constants of the enumerations in core/job, by the name of their type.
func enumerations(t *testing.T) map[string][]string {
	t.Helper()
	f, err := parser.ParseFile(token.NewFileSet(), "../core/job/enumerations.go", nil, 0)
	require.NoError(t, err)
	all := map[string][]string{}
	ast.Inspect(f, func(n ast.Node) bool {
		if v, ok := n.(*ast.ValueSpec); ok {
			if of, ok := v.Type.(*ast.Ident); ok {
				text, err := strconv.Unquote(v.Values[0].(*ast.BasicLit).Value)
				require.NoError(t, err)
				all[of.Name] = append(all[of.Name], text)
			}
		}
		return true
	})
	require.Greater(t, len(all), 25)
	return all
}

// goShape is what JSON has of a Go type.
func goShape(enums map[string][]string, of reflect.Type) shape {
	s := shape{}
	for of.Kind() == reflect.Pointer {
		of, s.null = of.Elem(), true
	}
	switch {
	case of == reflect.TypeFor[time.Time]():
		s.kind = "string"
		return s
	case of == reflect.TypeFor[jsontext.Value](), of.Kind() == reflect.Interface, of == reflect.TypeFor[job.SetAside]():
		s.kind = "any"
		return s
	}
	switch of.Kind() {
	case reflect.String:
		s.kind = "string"
		if strings.HasSuffix(of.PkgPath(), "core/job") {
			s.enum = enums[of.Name()]
		}
	case reflect.Bool:
		s.kind = "boolean"
	case reflect.Float64, reflect.Float32:
		s.kind = "number"
	case reflect.Int, reflect.Int64, reflect.Int32, reflect.Uint64, reflect.Uint32, reflect.Uint8, reflect.Uint:
		s.kind = "integer"
	case reflect.Slice, reflect.Array:
		s.kind = "array"
		if of.Elem().Kind() == reflect.Uint8 {
			s.kind = "string" // base64
			return s
		}
		s.of = func() shape { return goShape(enums, of.Elem()) }
	case reflect.Map:
		s.kind, s.of = "object", func() shape { return goShape(enums, of.Elem()) }
	case reflect.Struct:
		s.kind, s.members = "object", map[string]func() shape{}
		s.fields(enums, of)
	default:
		s.kind = of.Kind().String()
	}
	return s
}

// fields adds the members of a struct, those of embedded ones where no own one has the name.
func (s *shape) fields(enums map[string][]string, of reflect.Type) {
	var embedded []reflect.Type
	for i := range of.NumField() {
		f := of.Field(i)
		tag := f.Tag.Get("json")
		name, how, _ := strings.Cut(tag, ",")
		inner := f.Type
		if inner.Kind() == reflect.Pointer {
			inner = inner.Elem()
		}
		switch {
		case tag == "-", how == "embed":
		case f.Anonymous && name == "" && inner.Kind() == reflect.Struct:
			embedded = append(embedded, inner)
		case f.IsExported() && s.members[name] == nil:
			if name == "" {
				name = f.Name
			}
			s.members[name] = func() shape { return goShape(enums, f.Type) }
			if how == "" {
				s.required = append(s.required, name)
			}
		}
	}
	for _, e := range embedded {
		s.fields(enums, e)
	}
}

// apiShape is what a schema of the contract lets through.
func apiShape(seen map[string]bool, ref *openapi3.SchemaRef) shape {
	v := ref.Value
	if _, name, ok := strings.Cut(ref.Ref, "#/components/schemas/"); ok {
		seen[name] = true
	}
	s := shape{null: v.Nullable, required: slices.Clone(v.Required)}
	if len(v.AllOf) > 0 {
		s.kind, s.members = "object", map[string]func() shape{}
		for _, part := range append(slices.Clone(v.AllOf), &openapi3.SchemaRef{Value: &openapi3.Schema{Type: v.Type,
			Properties: v.Properties}}) {
			p := apiShape(seen, part)
			if p.kind != "any" && p.kind != "object" {
				p.null = p.null || v.Nullable
				return p
			}
			maps.Copy(s.members, p.members)
			s.required = append(s.required, p.required...)
			if p.of != nil {
				s.of = p.of
			}
		}
		return s
	}
	if len(v.OneOf)+len(v.AnyOf) > 0 || v.Type == nil {
		s.kind = "any"
		return s
	}
	s.kind = (*v.Type)[0]
	for _, e := range v.Enum {
		if text, ok := e.(string); ok && text != "" {
			s.enum = append(s.enum, text)
		}
	}
	switch {
	case s.kind == "array":
		s.of = func() shape { return apiShape(seen, v.Items) }
	case s.kind == "object":
		s.members = map[string]func() shape{}
		for name, p := range v.Properties {
			s.members[name] = func() shape { return apiShape(seen, p) }
		}
		if more := v.AdditionalProperties.Schema; more != nil {
			s.of = func() shape { return apiShape(seen, more) }
		}
	}
	return s
}

// jsonShape is what a JSON schema lets through; defs are what it refers to.
func jsonShape(defs map[string]any, schema map[string]any) shape {
	null := false
	for schema["$ref"] != nil || schema["oneOf"] != nil && schema["type"] == nil && alternative(schema) != nil {
		if ref, ok := schema["$ref"].(string); ok {
			schema = defs[strings.TrimPrefix(ref, "#/$defs/")].(map[string]any)
			continue
		}
		schema, null = alternative(schema), true
	}
	s := shape{null: null}
	switch kind := schema["type"].(type) {
	case string:
		s.kind = kind
	case []any:
		for _, k := range kind {
			if k == "null" {
				s.null = true
			} else if s.kind == "" {
				s.kind = k.(string)
			} else {
				s.kind = "any"
			}
		}
	default:
		s.kind = "any"
	}
	if list, ok := schema["enum"].([]any); ok {
		for _, e := range list {
			if text, ok := e.(string); ok && text != "" {
				s.enum = append(s.enum, text)
				s.kind = "string"
			}
		}
	}
	for _, r := range list(schema["required"]) {
		s.required = append(s.required, r.(string))
	}
	if items, ok := schema["items"].(map[string]any); ok {
		s.of = func() shape { return jsonShape(defs, items) }
	}
	if s.kind == "object" {
		s.members = map[string]func() shape{}
		for name, p := range members(schema["properties"]) {
			s.members[name] = func() shape { return jsonShape(defs, p.(map[string]any)) }
		}
		if more, ok := schema["additionalProperties"].(map[string]any); ok {
			s.of = func() shape { return jsonShape(defs, more) }
		}
	}
	return s
}

// alternative is the one schema beside null that a choice has, or nil.
func alternative(schema map[string]any) map[string]any {
	var only map[string]any
	for _, c := range list(schema["oneOf"]) {
		c := c.(map[string]any)
		if c["type"] == "null" {
			continue
		}
		if only != nil {
			return nil
		}
		only = c
	}
	return only
}

func list(v any) []any               { l, _ := v.([]any); return l }
func members(v any) map[string]any   { m, _ := v.(map[string]any); return m }
func sameSet(a, b []string) []string { return append(missing(a, b), missing(b, a)...) }

func missing(from, in []string) (names []string) {
	for _, n := range from {
		if !slices.Contains(in, n) {
			names = append(names, n)
		}
	}
	return names
}

// narrower are members of enumerations that a place never has: no link is of M.2, and nobody looked and doesn't know.
var narrower = map[string][]string{"kind": {"m2"}, "state": {"unknown"}}

// leftOut are members that Go always writes and that the contract may leave out all the same: where runs=none is asked
// for, and where the schema is of what is sent, too.
var leftOut = map[string][]string{"View.job": {"runs"}, "Changed.job": {"runs"}, "Fitting.known": {"place"},
	"Fitting.known.place": {"form"}, "Fitting.known.more[]": {"form"},
	"Swap.lists.counts": {"missing", "changed", "new", "unreadable_before", "unreadable_now"}}

// compared notes what a Go type and a schema have different; in: the schema is of what somebody sends, where a member
// that may be left out is not marked in Go.
func compared(at string, is, should shape, in bool, depth int, differ func(string)) {
	say := func(format string, args ...any) { differ(at + ": " + fmt.Sprintf(format, args...)) }
	if should.kind == "any" || is.kind == "any" || depth > 8 {
		return
	}
	if is.kind != should.kind && !(is.kind == "integer" && should.kind == "number") {
		say("Go has %s, the schema %s", is.kind, should.kind)
		return
	}
	if d := missing(sameSet(is.enum, should.enum), narrower[at[strings.LastIndex(at, ".")+1:]]); len(d) > 0 && len(is.enum) > 0 && !(in && len(should.enum) == 0) {
		say("members of the enumeration differ: %v", d)
	}
	if is.of != nil && should.of != nil {
		compared(at+"[]", is.of(), should.of(), in, depth+1, differ)
		return
	}
	if is.members == nil {
		return
	}
	if len(should.members) == 0 && should.of == nil { // an object that is left open
		return
	}
	if should.of != nil && len(should.members) == 0 {
		say("Go has members, the schema any name")
		return
	}
	goes, said := slices.Sorted(maps.Keys(is.members)), slices.Sorted(maps.Keys(should.members))
	if d := missing(goes, said); len(d) > 0 {
		say("not in the schema: %v", d)
	}
	if d := missing(said, goes); len(d) > 0 {
		say("not in Go: %v", d)
	}
	if !in {
		if d := missing(should.required, is.required); len(d) > 0 {
			say("required, but Go may leave out: %v", d)
		}
		if d := missing(missing(is.required, should.required), leftOut[at]); len(d) > 0 {
			say("always there, but not required: %v", d)
		}
	}
	for _, name := range goes {
		if p := should.members[name]; p != nil {
			compared(at+"."+name, is.members[name](), p(), in, depth+1, differ)
		}
	}
}

// answered are the types of answers, by their schemas; asked those of what is sent.
var (
	answered = map[string]any{
		"View": bench.View{}, "Changed": planning.Changed{}, "Board": board{}, "Ledger": reporting.Ledger{},
		"Report": reporting.Report{}, "Candidates": reporting.Candidates{}, "Closer": reporting.Closer{},
		"Reference": reporting.Reference{}, "Forecast": forecast.Forecast{}, "Known": forecasting.Known{},
		"Swap": swap.View{}, "Fitting": swap.Fitting{}, "Way": swap.Way{}, "Table": sittings.Table{},
		"Clips": evidence.Clips{}, "Clip": evidence.Clip{}, "Timer": timing.Timer{}, "Technician": timing.Technician{},
		"Usual": reporting.Usual{}, "Share": reporting.Share{}, "Pairing": pairing{}, "Probe": probes.Probe{},
		"Settings": settings{}, "Due": followup.Due{}, "Earlier": visit.Earlier{}, "Entry": plan.Offer{},
		"Template": plan.Template{}, "Welcome": order.Welcome{}, "Order": order.Order{}, "Problem": problem{},
		"Listing": machine.Listing{}, "Seen": probes.Seen{}, "Priced": forecasting.Priced{},
		"Revision": reporting.Revision{}, "Measuring": measuring.Measuring{}, "Session": session{}, "Reach": reach{},
		"ShopKey": stick.Key{}, "WaitingComputer": stick.Waiting{}, "Offer": order.Offer{},
	}
	asked = map[string]any{
		"Announcement": order.Announcement{}, "Opening": opening{}, "Shop": bench.Shop{}, "Answering": followup.Answering{}, "BillIn": visit.BillIn{},
		"CapacityResult": capacity.Result{}, "Change": visit.Change{}, "CheckRequest": probes.CheckRequest{},
		"Checked": order.Checked{}, "Compared": order.Compared{}, "FilesRequest": probes.FilesRequest{}, "Clocking": swap.Clocking{}, "ConditionsIn": bench.Conditions{},
		"Difference": manifest.Difference{}, "DraftIn": reporting.Draft{}, "Ended": order.Ended{},
		"Happening": sittings.Happening{}, "Hello": order.Hello{}, "Intake": visit.Intake{}, "Keeping": timing.Keeping{},
		"Left": none{}, "Looked": order.Facts{}, "Looking": swap.CheckByHand{}, "Marking": evidence.Marking{},
		"NewTest": planning.NewTest{}, "Noting": swap.Noting{}, "Press": timing.Press{},
		"Progress": order.Progress{}, "Promising": followup.Promising{}, "PurposeIn": sittings.Purpose{},
		"QuoteChange": visit.QuoteChange{}, "Result": order.Result{}, "SetupChange": visit.SetupChange{}, "Sign": order.Sign{},
		"Sustained": job.Sustained{}, "Tasking": swap.Tasking{},
		"TestChange": planning.TestChange{}, "Weighed": order.Weighed{}, "FileList": order.FileList{}, "WorkChange": visit.WorkChange{},
		"WorkIn": visit.Work{},
	}
)

// inPlace have their types inside the function that takes them; the contract's test sends them.
var inPlace = []string{"Accepting", "FateIn", "OtherDrive", "TakingEarlier", "TestAndSitting",
	"BenchClock", "Clock"}

// The contract and the file's schema say of each Go type what it is.
func TestSchemasAreAsTheTypes(t *testing.T) {
	enums := enumerations(t)
	doc, err := openapi3.NewLoader().LoadFromFile("../api/openapi.yaml")
	require.NoError(t, err)
	seen := map[string]bool{}
	for i, of := range []map[string]any{answered, asked} {
		for name, v := range of {
			require.Contains(t, doc.Components.Schemas, name)
			seen[name] = true
			compared(name, goShape(enums, reflect.TypeOf(v)), apiShape(seen, doc.Components.Schemas[name]), i == 1, 0,
				func(d string) { t.Error(d) })
		}
	}
	for name := range doc.Components.Schemas {
		if slices.Contains(inPlace, name) {
			continue
		}
		assert.True(t, seen[name], "no Go type is compared with %s", name)
	}
	text, err := os.ReadFile("../docs/schema/job.schema.json")
	require.NoError(t, err)
	var file map[string]any
	require.NoError(t, json.Unmarshal(text, &file))
	// A reader of files minds less than a writer has: what is required is not compared.
	said := jsonShape(file["$defs"].(map[string]any), file)
	delete(said.members, "format") // of the file, not of the job in it
	delete(said.members, "version")
	compared("job file", goShape(enums, reflect.TypeFor[job.Job]()), said, true, 0, func(d string) { t.Error(d) })
	assert.NotEmpty(t, enums)
}
