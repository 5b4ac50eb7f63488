// Package cap reads and writes messages of the Common Alerting Protocol,
// OASIS CAP 1.2 (1 July 2010). Sections in comments are those of the standard,
// cited from memory.
package cap

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"time"

	"mastflag/core/fault"
)

// Namespace is that of CAP 1.2 (§3.4).
const Namespace = "urn:oasis:names:tc:emergency:cap:1.2"

// MaxSize is how large a message may be, bytes; maxDepth how deep its elements
// may lie, where the standard's lie five deep.
const (
	MaxSize  = 1 << 20
	maxDepth = 20
)

// An Alert is a message, with its elements in the order of the schema (§3.2.1).
type Alert struct {
	XMLName     xml.Name `xml:"urn:oasis:names:tc:emergency:cap:1.2 alert"`
	Identifier  string   `xml:"identifier"`
	Sender      string   `xml:"sender"`
	Sent        string   `xml:"sent"`
	Status      string   `xml:"status"`
	MsgType     string   `xml:"msgType"`
	Source      string   `xml:"source,omitempty"`
	Scope       string   `xml:"scope"`
	Restriction string   `xml:"restriction,omitempty"`
	Addresses   string   `xml:"addresses,omitempty"`
	Code        []string `xml:"code,omitempty"`
	Note        string   `xml:"note,omitempty"`
	References  string   `xml:"references,omitempty"`
	Incidents   string   `xml:"incidents,omitempty"`
	Infos       []Info   `xml:"info"`
}

// An Info is what the message says in one language (§3.2.2).
type Info struct {
	Language     string     `xml:"language,omitempty"`
	Category     []string   `xml:"category"`
	Event        string     `xml:"event"`
	ResponseType []string   `xml:"responseType,omitempty"`
	Urgency      string     `xml:"urgency"`
	Severity     string     `xml:"severity"`
	Certainty    string     `xml:"certainty"`
	Audience     string     `xml:"audience,omitempty"`
	EventCode    []Value    `xml:"eventCode,omitempty"`
	Effective    string     `xml:"effective,omitempty"`
	Onset        string     `xml:"onset,omitempty"`
	Expires      string     `xml:"expires,omitempty"`
	SenderName   string     `xml:"senderName,omitempty"`
	Headline     string     `xml:"headline,omitempty"`
	Description  string     `xml:"description,omitempty"`
	Instruction  string     `xml:"instruction,omitempty"`
	Web          string     `xml:"web,omitempty"`
	Contact      string     `xml:"contact,omitempty"`
	Parameter    []Value    `xml:"parameter,omitempty"`
	Resource     []Resource `xml:"resource,omitempty"`
	Area         []Area     `xml:"area,omitempty"`
}

// A Value is a code with the name of its list.
type Value struct {
	Name  string `xml:"valueName"`
	Value string `xml:"value"`
}

// A Resource is a file that goes with the message (§3.2.3).
type Resource struct {
	Desc     string `xml:"resourceDesc"`
	MimeType string `xml:"mimeType"`
	Size     string `xml:"size,omitempty"`
	URI      string `xml:"uri,omitempty"`
	DerefURI string `xml:"derefUri,omitempty"`
	Digest   string `xml:"digest,omitempty"`
}

// An Area is where the message holds (§3.2.4).
type Area struct {
	Desc     string   `xml:"areaDesc"`
	Polygon  []string `xml:"polygon,omitempty"`
	Circle   []string `xml:"circle,omitempty"`
	Geocode  []Value  `xml:"geocode,omitempty"`
	Altitude string   `xml:"altitude,omitempty"`
	Ceiling  string   `xml:"ceiling,omitempty"`
}

// Codes are the values that an element may have, by its name (§3.2.1, §3.2.2).
var Codes = map[string][]string{
	"status":  {"Actual", "Exercise", "System", "Test", "Draft"},
	"msgType": {"Alert", "Update", "Cancel", "Ack", "Error"},
	"scope":   {"Public", "Restricted", "Private"},
	"category": {
		"Geo", "Met", "Safety", "Security", "Rescue", "Fire", "Health", "Env", "Transport", "Infra", "CBRNE", "Other",
	},
	"responseType": {"Shelter", "Evacuate", "Prepare", "Execute", "Avoid", "Monitor", "Assess", "AllClear", "None"},
	"urgency":      {"Immediate", "Expected", "Future", "Past", "Unknown"},
	"severity":     {"Extreme", "Severe", "Moderate", "Minor", "Unknown"},
	"certainty":    {"Observed", "Likely", "Possible", "Unlikely", "Unknown"},
}

// Parse reads a message. What is no sound CAP 1.2 message is refused with
// faults that name the element, as /alert/info/0/expires.
func Parse(raw []byte) (Alert, error) {
	var a Alert
	if err := Plain(raw, MaxSize); err != nil {
		return a, err
	}
	root, err := Root(raw)
	if err != nil {
		return a, err
	}
	if root != (xml.Name{Space: Namespace, Local: "alert"}) {
		return a, fault.Faults{{
			What:   fmt.Sprintf("the document is <%s> of %q, no CAP 1.2 message", root.Local, root.Space),
			Remedy: "give <alert xmlns=\"" + Namespace + "\">",
		}}
	}
	if err := xml.Unmarshal(raw, &a); err != nil {
		return a, notXML(err)
	}
	return a, a.Check().Err()
}

// Plain refuses XML that is too large, lies too deep, or declares a document
// type: no message or feed needs one, and entities of its own could grow
// without bound or fetch files.
func Plain(raw []byte, limit int) error {
	if len(raw) > limit {
		return fault.Faults{{What: fmt.Sprintf("it is larger than %d KB", limit>>10), Remedy: "send less at once"}}
	}
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = nil // UTF-8 alone
	for depth := 0; ; {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return notXML(err)
		}
		switch t := t.(type) {
		case xml.Directive:
			if strings.HasPrefix(strings.ToUpper(strings.TrimSpace(string(t))), "DOCTYPE") {
				return fault.Faults{{
					What:   "it declares a document type",
					Remedy: "leave the DOCTYPE out; it is not needed, and its entities are not read",
				}}
			}
		case xml.StartElement:
			if depth++; depth > maxDepth {
				return fault.Faults{{
					What:   fmt.Sprintf("elements lie more than %d deep", maxDepth),
					Remedy: "send what the standard describes",
				}}
			}
		case xml.EndElement:
			depth--
		}
	}
}

// Root returns the name of a document's root element; an error says that it is
// no XML.
func Root(raw []byte) (xml.Name, error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	for {
		t, err := d.Token()
		if err != nil {
			return xml.Name{}, notXML(err)
		}
		if s, ok := t.(xml.StartElement); ok {
			return s.Name, nil
		}
	}
}

func notXML(err error) error {
	if errors.Is(err, io.EOF) {
		err = errors.New("it is empty, or ends too soon")
	}
	return fault.Faults{{
		What:   "this is not well-formed XML: " + strings.TrimPrefix(err.Error(), "XML syntax error on "),
		Remedy: "give one XML document, in UTF-8",
	}}
}

// dateTime is the form of a moment (§3.2.1, sent): the zone is an offset, with
// -00:00 for UTC, and never a letter. A letter Z is read all the same.
var dateTime = regexp.MustCompile(`^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(?:[+-]\d{2}:\d{2}|Z)$`)

// Moment reads a moment; the error says what is wrong with it.
func Moment(s string) (time.Time, error) {
	if !dateTime.MatchString(s) {
		if _, err := time.Parse("2006-01-02T15:04:05", s); err == nil {
			return time.Time{}, fmt.Errorf("%q has no zone", s)
		}
		return time.Time{}, fmt.Errorf("%q is no moment", s)
	}
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		return t, fmt.Errorf("%q is no moment", s)
	}
	return t, nil
}

const momentRemedy = "write it like 2026-11-25T16:49:00-00:00, with its offset"

// Format writes a moment in UTC as the standard wants it: "-00:00" (§3.2.1).
func Format(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05") + "-00:00" }

// A Reference names an earlier message (§3.2.1, references).
type Reference struct {
	Sender, Identifier string
	Sent               time.Time
}

func (r Reference) String() string { return r.Sender + "," + r.Identifier + "," + Format(r.Sent) }

// Referred returns the messages that this one updates or cancels.
func (a Alert) Referred() ([]Reference, error) {
	var out []Reference
	for _, s := range strings.Fields(a.References) {
		parts := strings.Split(s, ",")
		if len(parts) != 3 {
			return nil, fmt.Errorf("%q is not sender,identifier,sent", s)
		}
		t, err := Moment(parts[2])
		if err != nil {
			return nil, err
		}
		out = append(out, Reference{parts[0], parts[1], t})
	}
	return out, nil
}

// Check returns what is wrong with a message by the data dictionary (§3.2).
func (a Alert) Check() fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: "/alert" + at, What: what, Remedy: remedy})
	}
	required := func(at, v string) {
		if strings.TrimSpace(v) == "" {
			wrong(at, "it is missing", "the standard requires it")
		}
	}
	code := func(at, name, v string) {
		if v == "" {
			required(at, v)
		} else if !slices.Contains(Codes[name], v) {
			wrong(at, fmt.Sprintf("%q is no value of it", v), "use one of "+strings.Join(Codes[name], ", "))
		}
	}
	moment := func(at, v string) {
		if v == "" {
			return
		}
		if _, err := Moment(v); err != nil {
			wrong(at, err.Error(), momentRemedy)
		}
	}
	for _, id := range []struct{ at, v string }{{"/identifier", a.Identifier}, {"/sender", a.Sender}} {
		required(id.at, id.v)
		if strings.ContainsAny(id.v, " ,<&") {
			wrong(id.at, fmt.Sprintf("%q has a space, a comma, < or & in it", id.v), "use none of them")
		}
	}
	required("/sent", a.Sent)
	moment("/sent", a.Sent)
	code("/status", "status", a.Status)
	code("/msgType", "msgType", a.MsgType)
	code("/scope", "scope", a.Scope)
	if a.Scope == "Restricted" {
		required("/restriction", a.Restriction)
	}
	if a.Scope == "Private" {
		required("/addresses", a.Addresses)
	}
	referred, err := a.Referred()
	switch {
	case err != nil:
		wrong("/references", err.Error(), "write sender,identifier,sent for each message, with spaces between")
	case len(referred) == 0 && slices.Contains([]string{"Update", "Cancel", "Ack", "Error"}, a.MsgType):
		wrong("/references", fmt.Sprintf("a message of type %s names none", a.MsgType), "name the messages it is about")
	}
	for i, in := range a.Infos {
		at := fmt.Sprintf("/info/%d", i)
		if len(in.Category) == 0 {
			required(at+"/category", "")
		}
		for j, c := range in.Category {
			code(fmt.Sprintf("%s/category/%d", at, j), "category", c)
		}
		for j, c := range in.ResponseType {
			code(fmt.Sprintf("%s/responseType/%d", at, j), "responseType", c)
		}
		required(at+"/event", in.Event)
		code(at+"/urgency", "urgency", in.Urgency)
		code(at+"/severity", "severity", in.Severity)
		code(at+"/certainty", "certainty", in.Certainty)
		moment(at+"/effective", in.Effective)
		moment(at+"/onset", in.Onset)
		moment(at+"/expires", in.Expires)
		for j, ar := range in.Area {
			required(fmt.Sprintf("%s/area/%d/areaDesc", at, j), ar.Desc)
		}
		for j, r := range in.Resource {
			required(fmt.Sprintf("%s/resource/%d/resourceDesc", at, j), r.Desc)
			required(fmt.Sprintf("%s/resource/%d/mimeType", at, j), r.MimeType)
		}
	}
	return faults
}

// Write writes a message as an XML document.
func (a Alert) Write() ([]byte, error) {
	out, err := xml.MarshalIndent(a, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("writing alert %s: %w", a.Identifier, err)
	}
	return append([]byte(xml.Header), append(out, '\n')...), nil
}
