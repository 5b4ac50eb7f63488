package bundle

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"

	"mastflag/core/audience"
	"mastflag/core/captions"
	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/pages"
	"mastflag/core/phrase"
	"mastflag/core/schedule"
)

// Schema is the JSON Schema (2020-12) of the document.
//
//go:embed schema.json
var Schema []byte

// MaxSize is how large a document may be, in bytes.
const MaxSize = 64 << 20

// Read reads and checks a document. The error is fault.Faults that name every
// wrong value by JSON Pointer. Unknown fields are wrong values.
func Read(r io.Reader) (Bundle, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return Bundle{}, fmt.Errorf("reading the bundle: %w", err)
	}
	if len(raw) > MaxSize {
		return Bundle{}, fault.Faults{{
			What:   fmt.Sprintf("the document is larger than %d MB", MaxSize>>20),
			Remedy: "split it",
		}}
	}
	return Parse(raw)
}

// Parse is Read of a document in memory.
func Parse(raw []byte) (Bundle, error) {
	if f := Unfit(raw); f != nil {
		return Bundle{}, fault.Faults{*f}
	}
	var b Bundle
	if err := Decode(upgraded(raw), "Bundle", &b); err != nil {
		return Bundle{}, err
	}
	if faults := b.Check(); len(faults) > 0 {
		return Bundle{}, faults
	}
	return b, nil
}

// Decode reads one shape of the schema, such as "Notice", into v. It checks
// shape only: what values mean together is for the Check methods.
func Decode(raw []byte, shape string, v any) error {
	if f := Unfit(raw); f != nil {
		return fault.Faults{*f}
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		return fault.Faults{syntaxFault(raw, err)}
	}
	if err := once(raw); err != nil {
		return err
	}
	s, err := compiled(shape)
	if err != nil {
		return err
	}
	if err := s.Validate(doc); err != nil {
		var ve *jsonschema.ValidationError
		if errors.As(err, &ve) {
			return schemaFaults(ve, doc)
		}
		return err
	}
	return Unmarshal(raw, v)
}

// maxNesting is how deep values of a document lie in each other at most.
const maxNesting = 100

// Unfit returns what no document may have, or nil: JSON that is nested deeper
// than any document needs, over which readers of nested values take long, and
// the character U+0000, at which others take a text to end.
func Unfit(raw []byte) *fault.Fault {
	depth, quoted := 0, false
	for i := 0; i < len(raw); i++ {
		switch c := raw[i]; {
		case quoted && c == '\\' && bytes.HasPrefix(raw[i+1:], []byte("u0000")):
			return &fault.Fault{
				What:   fmt.Sprintf("line %d: a text holds the character U+0000", 1+bytes.Count(raw[:i], []byte{'\n'})),
				Remedy: "remove it; nothing can show it",
			}
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '{' || c == '[':
			if depth++; depth > maxNesting {
				return &fault.Fault{
					What: fmt.Sprintf(
						"line %d: values are nested more than %d deep", 1+bytes.Count(raw[:i], []byte{'\n'}), maxNesting,
					),
					Remedy: "use fewer groups within groups",
				}
			}
		case c == '}' || c == ']':
			depth--
		}
	}
	return nil
}

// Write writes the document as indented JSON.
func Write(w io.Writer, b Bundle) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	return enc.Encode(b)
}

var schemas struct {
	sync.Mutex
	compiler *jsonschema.Compiler
}

func compiled(shape string) (*jsonschema.Schema, error) {
	schemas.Lock()
	defer schemas.Unlock()
	if schemas.compiler == nil {
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(Schema))
		if err != nil {
			return nil, fmt.Errorf("bundle schema: %w", err)
		}
		c := jsonschema.NewCompiler()
		c.DefaultDraft(jsonschema.Draft2020)
		c.AssertFormat()
		if err := c.AddResource("bundle.schema.json", doc); err != nil {
			return nil, fmt.Errorf("bundle schema: %w", err)
		}
		schemas.compiler = c
	}
	return schemas.compiler.Compile("bundle.schema.json#/$defs/" + shape)
}

// syntaxFault says where the JSON breaks off, by line and column.
func syntaxFault(raw []byte, err error) fault.Fault {
	f := fault.Fault{
		What:   "this is not JSON: " + strings.TrimPrefix(err.Error(), "json: "),
		Remedy: "give one JSON document, in UTF-8",
	}
	at := len(raw) // where it ends too soon
	var se *json.SyntaxError
	if errors.As(err, &se) {
		at = min(int(se.Offset), len(raw))
	} else if !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return f
	}
	line := 1 + bytes.Count(raw[:at], []byte{'\n'})
	f.What = fmt.Sprintf(
		"this is not JSON: line %d, column %d: %s", line, at-bytes.LastIndexByte(raw[:at], '\n')-1, err.Error(),
	)
	return f
}

// schemaFaults turns the validator's tree of errors into one fault for each leaf.
func schemaFaults(ve *jsonschema.ValidationError, doc any) fault.Faults {
	var out fault.Faults
	var walk func(e *jsonschema.ValidationError)
	walk = func(e *jsonschema.ValidationError) {
		for _, c := range e.Causes {
			walk(c)
		}
		if len(e.Causes) > 0 {
			return
		}
		tokens := make([]any, len(e.InstanceLocation))
		for i, t := range e.InstanceLocation {
			tokens[i] = t
		}
		at := fault.Pointer(tokens...)
		value := quote(valueAt(doc, e.InstanceLocation))
		switch k := e.ErrorKind.(type) {
		case *kind.AdditionalProperties:
			for _, p := range k.Properties {
				out = append(out, fault.Fault{
					Pointer: at + fault.Pointer(p),
					What:    fmt.Sprintf("unknown field %q", p),
					Remedy:  "remove it, or check its spelling",
				})
			}
		case *kind.Required:
			for _, p := range k.Missing {
				out = append(out, fault.Fault{Pointer: at, What: fmt.Sprintf("%q is missing", p), Remedy: "add it"})
			}
		case *kind.Enum:
			out = append(out, fault.Fault{Pointer: at, What: value + " is not accepted", Remedy: "use one of " + list(k.Want)})
		case *kind.Const:
			out = append(out, fault.Fault{Pointer: at, What: value + " is not accepted", Remedy: "use " + quote(k.Want)})
		case *kind.Type:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("%s is of type %s", value, k.Got),
				Remedy:  "give " + strings.Join(k.Want, " or "),
			})
		case *kind.Pattern:
			remedy := "it must match " + k.Want
			if k.Want == audience.FactPattern {
				remedy = audience.FactLetters
			}
			out = append(out, fault.Fault{Pointer: at, What: value + " has the wrong form", Remedy: remedy})
		case *kind.MinLength:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    "the text is too short",
				Remedy:  fmt.Sprintf("give at least %d characters", k.Want),
			})
		case *kind.MaxLength:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("the text is too long, %d characters", k.Got),
				Remedy:  fmt.Sprintf("give at most %d characters", k.Want),
			})
		case *kind.MinItems:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("the list is too short, %d entries", k.Got),
				Remedy:  fmt.Sprintf("give at least %d entries", k.Want),
			})
		case *kind.MaxItems:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("the list is too long, %d entries", k.Got),
				Remedy:  fmt.Sprintf("give at most %d entries", k.Want),
			})
		case *kind.Minimum:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    value + " is too small",
				Remedy:  "give at least " + k.Want.RatString(),
			})
		case *kind.Maximum:
			out = append(out, fault.Fault{
				Pointer: at,
				What:    value + " is too large",
				Remedy:  "give at most " + k.Want.RatString(),
			})
		case *kind.Format:
			remedy := "give a " + k.Want
			if k.Want == "date-time" {
				remedy = "write it like 2026-11-20T10:00:00Z (RFC 3339)"
			}
			out = append(out, fault.Fault{Pointer: at, What: value + " has the wrong form", Remedy: remedy})
		default:
			out = append(out, fault.Fault{Pointer: at, What: e.Error(), Remedy: "see the bundle's schema"})
		}
	}
	walk(ve)
	slices.SortStableFunc(out, func(a, b fault.Fault) int { return strings.Compare(a.Pointer, b.Pointer) })
	return out
}

func valueAt(doc any, at []string) any {
	for _, t := range at {
		switch d := doc.(type) {
		case map[string]any:
			doc = d[t]
		case []any:
			var i int
			if _, err := fmt.Sscan(t, &i); err != nil || i >= len(d) {
				return nil
			}
			doc = d[i]
		}
	}
	return doc
}

// quote shows a value in an error, shortened.
func quote(v any) string {
	switch v.(type) {
	case map[string]any:
		return "this object"
	case []any:
		return "this list"
	}
	b, err := json.Marshal(v)
	if err != nil {
		return "this value"
	}
	if r := []rune(string(b)); len(r) > 60 {
		return string(r[:57]) + `…"`
	}
	return string(b)
}

func list(values []any) string {
	out := make([]string, len(values))
	for i, v := range values {
		out[i] = fmt.Sprint(v)
	}
	return strings.Join(out, ", ")
}

// Check returns what is wrong with a bundle beyond the shape of its values.
func (b Bundle) Check() fault.Faults {
	faults := b.Site.Check().Under("/site")
	paths := map[string]int{}
	for i, p := range b.Pages {
		at := fault.Pointer("pages", i)
		faults = append(faults, p.Check().Under(at)...)
		if n, err := pages.PagePath(p.Path); err == nil {
			if first, twice := paths[n]; twice {
				faults = append(faults, fault.Fault{
					Pointer: at + "/path",
					What:    fmt.Sprintf("page %s stands here twice, first at /pages/%d", n, first),
					Remedy:  "keep one of them",
				})
			} else {
				paths[n] = i
			}
		}
	}
	terms := b.Site.terms()
	ids := map[string]int{}
	occurrences, loose := 0, Unanchored{}
	for i, n := range b.Notices {
		at := fault.Pointer("notices", i)
		if first, twice := ids[n.ID]; twice {
			faults = append(faults, fault.Fault{
				Pointer: at + "/id",
				What:    fmt.Sprintf("id %q stands here twice, first at /notices/%d", n.ID, first),
				Remedy:  "give each notice its own",
			})
		}
		ids[n.ID] = i
		faults = append(faults, n.check(terms).Under(at)...)
		if n.GetState() != Published {
			continue
		}
		more := n.occurrences(terms.zone)
		if occurrences += more; occurrences > schedule.MaxSite {
			faults = append(faults, fault.Faults{TooManyOccurrences}.Under(at)...)
			occurrences -= more
		}
		if !loose.Add(n.unanchored(terms)) {
			faults = append(faults, fault.Faults{TooManyUnanchored}.Under(at)...)
		}
		if len(faults) >= MaxFaults {
			break
		}
	}
	return faults
}

// MaxFaults is how many faults of a bundle's notices are looked for.
const MaxFaults = 100

// occurrences counts those of the windows and of the countdown's moments as rule
// S6 does.
func (n Notice) occurrences(zone *time.Location) int {
	when, _ := schedule.Compile(n.GetSchedule(), zone, n.GetPublishedAt())
	sum := when.Count()
	if c := n.Countdown(); c != nil {
		if k, faults := countdown.Compile(*c, zone); faults == nil {
			sum += k.Occurrences()
		}
	}
	return sum
}

// Occurrences counts those of a notice of the site as rule S6 does.
func (n Notice) Occurrences(s Site) int { return n.occurrences(s.terms().zone) }

// TooManyOccurrences refuses a published notice with which the site's have more occurrences
// than are looked at (rule S6); it points into the notice.
var TooManyOccurrences = fault.Fault{
	Pointer: "/schedule",
	What: fmt.Sprintf(
		"with it the site’s published notices have more than %d occurrences in ten years", schedule.MaxSite,
	),
	Remedy: "have it repeat less often, give its repeats an end, or unpublish another that repeats often",
}

// Unanchored are patterns of the published notices of a site that are tried on every page.
type Unanchored map[string]bool

// Add takes patterns among them, all or none; it reports whether there was room.
func (l Unanchored) Add(patterns []string) bool {
	var added []string
	for _, p := range patterns {
		if !l[p] {
			l[p] = true
			added = append(added, p)
		}
	}
	if len(l) <= pages.MaxUnanchored {
		return true
	}
	for _, p := range added {
		delete(l, p)
	}
	return len(added) == 0
}

// Unanchored returns the patterns of a notice of the site that are tried on every page.
func (n Notice) Unanchored(s Site) []string { return n.unanchored(s.terms()) }

func (n Notice) unanchored(t terms) []string {
	set, _ := pages.Compile(n.GetPages(), t.pages)
	return set.Unanchored()
}

// TooManyUnanchored refuses a published notice with which the site's have more patterns than
// may be tried on every page (rule P2); it points into the notice.
var TooManyUnanchored = fault.Fault{
	Pointer: "/pages",
	What: fmt.Sprintf(
		"with it the site’s published notices have more than %d patterns in which nothing stands for itself",
		pages.MaxUnanchored,
	),
	Remedy: "give a path, a section, or a pattern with fixed letters such as /news/*",
}

// Check returns what is wrong with a site.
func (s Site) Check() fault.Faults {
	var faults fault.Faults
	if _, err := schedule.Zone(s.TimeZone); err != nil {
		faults = append(faults, fault.Fault{
			Pointer: "/timeZone",
			What:    err.Error(),
			Remedy:  "use an IANA zone name such as Europe/London",
		})
	}
	for i, o := range s.Origins {
		n, err := pages.Origin(o)
		if err == nil && strings.TrimSuffix(strings.ToLower(o), "/") != n && strings.Count(o, "/") > 2 {
			err = fmt.Errorf("%q is more than an origin", o)
		}
		if err != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("origins", i),
				What:    err.Error(),
				Remedy:  "give scheme and host alone, such as https://www.example.org",
			})
		}
	}
	for i, p := range s.HomePaths {
		if _, err := pages.PagePath(p); err != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("homePaths", i),
				What:    err.Error(),
				Remedy:  "give a path such as /de",
			})
		}
	}
	faults = append(faults, checkLanguage("/language", s.Language)...)
	for i, l := range s.Languages {
		faults = append(faults, checkLanguage(fault.Pointer("languages", i), l)...)
	}
	if s.SharedMemory && len(s.Domains()) == 0 {
		faults = append(faults, fault.Fault{
			Pointer: "/sharedMemory",
			What:    "none of the site's addresses lies in a domain that could share a memory",
			Remedy:  "give an address such as https://www.example.org, or leave it off",
		})
	}
	sections := map[string]bool{}
	for i, l := range s.SectionLanguages {
		path, err := pages.PagePath(l.Path)
		if err != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("sectionLanguages", i, "path"),
				What:    err.Error(),
				Remedy:  "give a path such as /de",
			})
		} else if sections[path] {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("sectionLanguages", i, "path"),
				What:    fmt.Sprintf("%s has a language already", path),
				Remedy:  "keep one of them",
			})
		}
		sections[path] = true
		faults = append(faults, checkLanguage(fault.Pointer("sectionLanguages", i, "language"), l.Language)...)
	}
	for slot, n := range s.Capacity {
		if !slices.Contains(shared(), slot) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("capacity", string(slot)),
				What:    fmt.Sprintf("unknown slot %q", slot),
				Remedy:  "use one of: " + strings.Join(closed.Strings(shared()...), ", ") + "; centre is for cover too",
			})
		}
		if n < 0 || n > 20 {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("capacity", string(slot)),
				What:    fmt.Sprintf("%d notices cannot share a slot", n),
				Remedy:  "give 0 to 20",
			})
		}
	}
	_, f := s.Names()
	faults = append(faults, f.Under("/pageSets")...)
	_, f = audience.NewNames(s.Audiences)
	faults = append(faults, f.Under("/audiences")...)
	for i, font := range s.Fonts {
		if !isFont(font) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("fonts", i),
				What:    fmt.Sprintf("%q is not a list of font families", font),
				Remedy:  fontRemedy,
			})
		}
	}
	faults = append(faults, s.checkThemes().Under("/themes")...)
	if s.FillIns != nil {
		faults = append(faults, s.FillIns.check().Under("/fillIns")...)
	}
	t := s.terms()
	names := map[string]bool{}
	for i, r := range s.Rules {
		at := fault.Pointer("rules", i)
		if names[r.Name] {
			faults = append(faults, fault.Fault{
				Pointer: at + "/name",
				What:    fmt.Sprintf("a second set of rules is called %q", r.Name),
				Remedy:  "give each its own name",
			})
		}
		names[r.Name] = true
		faults = append(faults, r.Notice().check(t).Under(at)...)
	}
	for i, p := range s.StartingPoints {
		faults = append(faults, p.Notice.check(t).Under(fault.Pointer("startingPoints", i, "notice"))...)
	}
	faults = append(faults, s.Setup().Check().Under("/consent")...)
	for i, item := range s.Setup().Inventory {
		for tag := range item.For {
			faults = append(faults, checkLanguage(fault.Pointer("consent", "inventory", i, "for", tag), tag)...)
		}
	}
	for i, p := range s.Setup().Purposes {
		for tag := range p.Words {
			faults = append(faults, checkLanguage(fault.Pointer("consent", "purposes", i, "words", tag), tag)...)
		}
	}
	faults = append(faults, document.Check(s.Documents).Under("/documents")...)
	for i, d := range s.Documents {
		if audience.Reserved(d.ID) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("documents", i, "id"),
				What:    fmt.Sprintf("%q cannot be the name of a document", d.ID),
				Remedy:  "choose another, such as " + d.ID + "-2",
			})
		}
	}
	names = map[string]bool{}
	for i, f := range s.Feeds {
		at := fault.Pointer("feeds", i)
		if names[f.Name] {
			faults = append(faults, fault.Fault{
				Pointer: at + "/name",
				What:    fmt.Sprintf("a second feed is called %q", f.Name),
				Remedy:  "give each its own name",
			})
		}
		names[f.Name] = true
		faults = append(faults, f.check(t).Under(at)...)
	}
	faults = append(faults, checkEvery("/refresh", s.Refresh, 5*time.Second, "write it like PT1M")...)
	for _, tag := range slices.Sorted(maps.Keys(s.Words)) {
		at := fault.Pointer("words", tag)
		faults = append(faults, checkLanguage(at, tag)...)
		faults = append(faults, s.Words[tag].Words.Check().Under(at+"/words")...)
	}
	for i, saved := range s.Wordings {
		faults = append(faults, checkWordings(saved.Wordings).Under(fault.Pointer("wordings", i, "wordings"))...)
	}
	return faults
}

// Check returns what is wrong with a page.
func (p Page) Check() fault.Faults {
	var faults fault.Faults
	if _, err := pages.PagePath(p.Path); err != nil {
		faults = append(faults, fault.Fault{
			Pointer: "/path",
			What:    err.Error(),
			Remedy:  "give a path such as /ports/aldwick",
		})
	}
	if p.Language != "" {
		faults = append(faults, checkLanguage("/language", p.Language)...)
	}
	return faults
}

// terms are what a site's notices are read with.
type terms struct {
	zone      *time.Location
	pages     pages.Names
	audiences audience.Names
	consent   consent.Setup
}

// terms are as good as the site is; its own faults say what is wrong there.
func (s Site) terms() terms {
	zone, err := schedule.Zone(s.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	t := terms{zone: zone, consent: s.Setup()}
	t.pages, _ = s.Names()
	t.audiences = audience.Named(s.Audiences)
	return t
}

// Check returns what is wrong with a notice of the site.
func (n Notice) Check(s Site) fault.Faults { return n.check(s.terms()) }

func (n Notice) check(t terms) fault.Faults {
	var faults fault.Faults
	if audience.Reserved(n.ID) {
		faults = append(faults, fault.Fault{
			Pointer: "/id",
			What:    fmt.Sprintf("%q cannot be the name of a notice", n.ID),
			Remedy:  "choose another, such as " + n.ID + "-2",
		})
	}
	_, f := schedule.Compile(n.GetSchedule(), t.zone, n.GetPublishedAt())
	faults = append(faults, f.Under("/schedule")...)
	_, f = pages.Compile(n.GetPages(), t.pages)
	faults = append(faults, f.Under("/pages")...)
	_, f = audience.Compile(n.GetAudience(), t.audiences)
	faults = append(faults, f.Under("/audience")...)
	faults = append(faults, n.GetMemory().check().Under("/memory")...)
	faults = append(faults, n.GetLook().check().Under("/look")...)
	for at, p := range n.Pictures() {
		faults = append(faults, p.check().Under(at)...)
	}
	if n.Spot != nil {
		faults = append(faults, n.Spot.check(t.pages).Under("/spot")...)
	}
	for i, s := range n.Spots {
		faults = append(faults, s.check(t.pages).Under(fault.Pointer("spots", i))...)
	}
	if c := n.Countdown(); c != nil {
		_, f = countdown.Compile(*c, t.zone)
		faults = append(faults, f.Under("/content/countdown")...)
	}
	switch has := n.Content != nil && n.Content.Consent != nil; {
	case has && n.Kind != KindConsent:
		faults = append(faults, fault.Fault{
			Pointer: "/content/consent",
			What:    fmt.Sprintf("a notice of kind %q asks for no consent", n.Kind),
			Remedy:  "remove it, or make the kind consent",
		})
	case has:
		faults = append(faults, n.Question().Check(t.consent).Under("/content/consent")...)
	}
	faults = append(faults, n.checkDocuments()...)
	faults = append(faults, n.checkRows()...)
	faults = append(faults, n.checkForm()...)
	if n.Content != nil && n.Content.Tab != nil {
		faults = append(faults, n.Content.Tab.check().Under("/content/tab")...)
	}
	faults = append(faults, n.checkCode(t.consent)...)
	faults = append(faults, n.checkExperiment(t)...)
	return append(faults, checkWordings(n.Wordings()).Under("/content/wordings")...)
}

func checkWordings(w map[string]Wording) fault.Faults {
	var faults fault.Faults
	for _, tag := range slices.Sorted(maps.Keys(w)) {
		at := fault.Pointer(tag)
		faults = append(faults, checkLanguage(at, tag)...)
		faults = append(faults, w[tag].Check().Under(at)...)
	}
	return faults
}

func (m Memory) check() fault.Faults {
	var faults fault.Faults
	for _, act := range m.Acts() {
		if err := act.Period.check(); err != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer(act.Name),
				What:    err.Error(),
				Remedy:  "use page, session, ever, or a duration such as P1D (a day) or PT12H (twelve hours)",
			})
		}
	}
	faults = append(faults, checkBetween("/closeAfter", m.CloseAfter, 20*time.Second, time.Hour)...)
	for i, l := range m.Limits {
		if l.Per == PeriodSession {
			continue
		}
		if _, err := schedule.ParseSpan(string(l.Per)); err != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("limits", i, "per"),
				What:    err.Error(),
				Remedy:  "use session, or a duration such as P7D (seven days)",
			})
		}
	}
	return faults
}

// Check returns what is wrong with a wording.
func (w Wording) Check() fault.Faults {
	var faults fault.Faults
	w.MapHTML(func(pointer, html string) string {
		bad, remedy := markup.Check(html), "use only p, br, strong, b, em, i, a, ul, ol, li and span"
		if pointer == detailsPointer {
			bad, remedy = markup.CheckDetails(html), remedy+", h2, h3, and pictures of the site"
		}
		if bad != nil {
			faults = append(faults, fault.Fault{
				Pointer: pointer,
				What:    "holds " + strings.Join(bad, ", "),
				Remedy:  remedy,
			})
		}
		return html
	})
	for _, id := range w.PartIDs() {
		if text := w.Parts[id].Captions; text != "" {
			if _, err := captions.Parse(text); err != nil {
				faults = append(faults, fault.Fault{
					Pointer: fault.Pointer("parts", id, "captions"), What: err.Error(),
					Remedy: "give captions as WebVTT has them",
				})
			}
		}
	}
	if f := phrase.PlainFault(w.Headline); f != nil {
		f.Pointer = "/headline"
		faults = append(faults, *f)
	}
	faults = append(faults, w.Labels.Check().Under("/labels")...)
	faults = append(faults, w.checkWords().Under("/words")...)
	w.MapLinks(func(pointer string, l Link) (Link, bool) {
		if what := markup.HrefFault(l.Href); what != "" {
			faults = append(faults, fault.Fault{
				Pointer: pointer + "/href",
				What:    what,
				Remedy: "give a path of the site such as /status, an http, https, mailto or tel address, or document: and the " +
					"id of a document",
			})
		}
		return l, true
	})
	if w.Second != nil && (w.Link == nil || w.Link.As == "bar") {
		faults = append(faults, fault.Fault{
			Pointer: "/second",
			What:    "a second button stands beside a first one, and there is none",
			Remedy:  "give a link that is a button or words, or remove the second",
		})
	}
	if w.Link != nil && w.Details != "" {
		faults = append(faults, fault.Fault{
			Pointer: "/details",
			What:    "a notice has either a link or a longer message, not both",
			Remedy:  "remove one of them",
		})
	}
	return faults
}

func checkLanguage(at, tag string) fault.Faults {
	if _, err := language.Parse(tag); err != nil {
		return fault.Faults{{
			Pointer: at,
			What:    fmt.Sprintf("%q is not a language tag", tag),
			Remedy:  "use a BCP 47 tag such as en, de or pt-BR",
		}}
	}
	return nil
}
