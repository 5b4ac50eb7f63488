package compiled

import (
	"bytes"
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/form"
	"mastflag/core/lookup"
	"mastflag/core/phrase"
	"mastflag/core/render"
	"mastflag/core/wording"
)

// A worded is a consent notice as places of one rule get it.
type formKey struct {
	language string
	rule     consent.Rule
	words    string // that the link which objects has to have
}

// An asked is a consent notice rendered: what is sent, and its fingerprint.
type consentForm struct {
	piece *Encoded
	hash  string
}

// Shown is a consent notice exactly as visitors of one language and one rule
// see it: what a record of an answer points at.
type Shown struct {
	Notice string `json:"notice"`
	// When it was published, RFC 3339: which version it is.
	Version  string       `json:"version"`
	Language string       `json:"language"`
	Rule     consent.Rule `json:"rule,omitempty"`
	HTML     string       `json:"html"`
	CSS      string       `json:"css"`
	// Of a consent notice: what is asked about, and the marks of what it sets, when it was shown.
	Asked []string `json:"asked,omitempty"`
	Of    string   `json:"of,omitempty"`
	// Of a disclaimer that has to be answered.
	Disclaimer *ShownDisclaimer `json:"disclaimer,omitempty"`
	// Of a notice that has a form.
	Form *ShownForm `json:"form,omitempty"`
}

// A ShownForm is what a form asked when it was shown: what is sent is read by that, whatever
// it asks by now.
type ShownForm struct {
	Fields []form.NamedField `json:"fields"`
	Form   form.Form         `json:"form"`
	// What fields and options were called, and the words of what is agreed to (render.FormWords).
	Labels map[string]string `json:"labels,omitempty"`
	Agreed map[string]string `json:"agreed,omitempty"`
	// What is said in the letter that has an address confirmed, and behind its link.
	Words phrase.Words `json:"words,omitempty"`
}

// noteForm notes what a form that is published shows, so that what is sent can be read.
func (s *Site) noteForm(n bundle.Notice, tag string, bar render.Bar) {
	if bar.Form == nil || n.GetState() != bundle.Published {
		return
	}
	shown := ShownForm{Fields: n.FormFields(), Form: n.Form()}
	shown.Labels, shown.Agreed = render.FormWords(n, tag)
	if shown.Form.Confirm != "" {
		shown.Words = phrase.Words{}
		for k, said := range n.Wordings()[tag].Phrases(tag) {
			if r, ok := phrase.RowOf(k); ok && r.Use == phrase.Confirming {
				shown.Words[k] = said
			}
		}
	}
	s.Shown[bar.Form.Hash] = Shown{
		Notice:   n.ID,
		Version:  n.GetPublishedAt().UTC().Format(time.RFC3339),
		Language: tag,
		HTML:     bar.HTML,
		CSS:      bar.CSS,
		Form:     &shown,
	}
}

// A ShownDisclaimer is what a disclaimer was about when it was shown.
type ShownDisclaimer struct {
	Ask string `json:"ask"`
	// The document, its version and the SHA-256 of its text; absent where the notice stands for itself.
	Document     string `json:"document,omitempty"`
	Version      int    `json:"version,omitempty"`
	DocumentHash string `json:"documentHash,omitempty"`
	// Mark of its own text.
	Of string `json:"of,omitempty"`
}

// disclaim renders a disclaimer that has to be answered, as JSON, and notes what
// was shown where it is published.
func (s *Site) disclaim(n bundle.Notice, tag, base string, order int) (*Encoded, error) {
	site := s.Bundle().Site
	r, err := render.Disclaimer(n, site, tag, base+ImagesPath(site.Key), base)
	if err != nil {
		return nil, err
	}
	if n.GetState() == bundle.Published && n.Wordings()[tag].Says() {
		d, _ := n.Disclaimer()
		shown := ShownDisclaimer{
			Ask:      string(d.GetAsk()),
			Document: d.Document,
			Version:  r.Disclaims.Version,
			Of:       r.Disclaims.Of,
		}
		if doc, ok := document.Get(site.Documents, d.Document); ok {
			text, _ := doc.In(tag, site.Language)
			shown.DocumentHash = text.Hash()
		}
		s.Shown[r.Disclaims.Hash] = Shown{
			Notice:     n.ID,
			Version:    n.GetPublishedAt().UTC().Format(time.RFC3339),
			Language:   tag,
			HTML:       r.HTML,
			CSS:        r.CSS,
			Disclaimer: &shown,
		}
	}
	return Piece{Bar: r.Bar, Order: order, Disclaims: &r.Disclaims}.encode()
}

// ConsentPart is what the consent part of the site script gets beside the decision.
type ConsentPart struct {
	Asked []string `json:"asked"`
	// Marks of all that is asked about.
	Of string `json:"of"`
	// What to remove where its purpose is not agreed to: kind, name, host, purpose.
	Clear [][4]string `json:"clear,omitempty"`
	// Names of purposes, by id.
	Names map[string]string `json:"names"`
	// Purposes that a privacy signal refuses.
	Signal []string `json:"signal,omitempty"`
	// Where the control that asks again stands; whether it is a tab at the edge; its field and words, where they are
	// not black on white.
	Again   string   `json:"again"`
	Tab     bool     `json:"tab,omitempty"`
	Colours []string `json:"colours,omitempty"`
	// What else is an answer where the rule is not opt-in: closing, going-on.
	Also  []string     `json:"also,omitempty"`
	Words ConsentWords `json:"words"`
	// What the guard in the page holds back; and whether what has no purpose yet is held where something has to be agreed
	// to first.
	Holds    consent.Holds `json:"holds"`
	Unsorted bool          `json:"unsorted,omitempty"`
	// Of all of this.
	Tag string `json:"tag"`
}

// encode writes the part in JSON.
func (p ConsentPart) encode() (*Encoded, error) {
	var short struct {
		Tag string `json:"tag"`
	}
	return encodeTagged(&p, &short, func(tag string) { p.Tag, short.Tag = tag, tag })
}

// ConsentWords are what the program itself says where something is held back.
type ConsentWords struct {
	Again   string `json:"again"`
	Missing string `json:"missing"`
	Allow   string `json:"allow"`
}

// consents renders the site's published consent notices in every language, for
// every rule.
func (s *Site) consents(base string) error {
	b := s.Bundle()
	s.consentForms, s.parts = map[string]map[formKey]consentForm{}, map[string]*Encoded{}
	setup := b.Site.Setup()
	for order, n := range s.Ordered() {
		if n.Kind != bundle.KindConsent || n.GetState() != bundle.Published {
			continue
		}
		s.consentForms[n.ID] = map[formKey]consentForm{}
		for tag, w := range n.Wordings() {
			if !w.Says() {
				continue // nobody gets it
			}
			for _, place := range s.Consent().Wordings() {
				a, err := render.Consent(b.Site.Prepared(n, base), b.Site, tag, place, base+ImagesPath(b.Site.Key))
				if err != nil {
					return err
				}
				raw, err := Piece{Bar: a.Bar, Order: order, Hash: a.Hash}.encode()
				if err != nil {
					return err
				}
				s.consentForms[n.ID][formKey{tag, place.Rule, place.Words}] = consentForm{raw, a.Hash}
				s.Shown[a.Hash] = Shown{
					Notice:   n.ID,
					Version:  n.GetPublishedAt().UTC().Format(time.RFC3339),
					Language: tag,
					Rule:     place.Rule,
					HTML:     a.HTML,
					CSS:      a.CSS,
					Asked:    setup.AskedPurposes(),
					Of:       setup.Marks(),
				}
			}
			if n.ID != s.ConsentNotice() {
				continue
			}
			prepared := b.Site.Prepared(n, base).Wordings()[tag]
			words := prepared.Phrases(tag)
			p := ConsentPart{
				Asked:  setup.AskedPurposes(),
				Of:     setup.Marks(),
				Names:  map[string]string{},
				Signal: setup.Signalled(),
				Again:  n.Question().GetAskAgainCorner(),
				Tab:    n.Question().GetAskAgainForm() == "tab",
				Words:  ConsentWords{words[phrase.Again], words[phrase.Missing], words[phrase.Allow]},

				Holds:    setup.Holds(b.Site.Hosts()),
				Unsorted: setup.Unsorted == "held",
			}
			if field, text := render.AgainColours(b.Site.Themed(n)); field != "" {
				p.Colours = []string{field, text}
			}
			if n.Question().GetClosing() == "accept" {
				p.Also = append(p.Also, "closing")
			}
			if n.Question().GetContinuing() == "accept" {
				p.Also = append(p.Also, "going-on")
			}
			for _, i := range setup.Inventory {
				// What nobody has placed yet may be necessary: it is not touched.
				if i.Purpose != "" && i.Purpose != consent.Necessary && (i.Kind == consent.Cookie || i.Kind == consent.Storage) {
					p.Clear = append(p.Clear, [4]string{string(i.Kind), i.Name, i.Host, i.Purpose})
				}
			}
			for _, purpose := range setup.Purposes {
				p.Names[purpose.ID] = purpose.In(tag, b.Site.Language, prepared.OwnPhrases()).Name
			}
			part, err := p.encode()
			if err != nil {
				return err
			}
			s.parts[tag] = part
		}
	}
	return nil
}

// DisclaimerPart is what the part of the site script that takes answers to disclaimers gets
// beside the decision.
type DisclaimerPart struct {
	Words render.DisclaimerWords `json:"words"`
	// What the page's disclaimers are about, by the names that answers are remembered under.
	Titles map[string]string `json:"titles"`
}

// disclaimerParts works out what the site script's part for disclaimers gets in
// each language that one is worded in, as JSON; nothing where the site has none.
func (s *Site) disclaimerParts() error {
	site, tags, demands := s.Bundle().Site, map[string]bool{}, []bundle.Notice{}
	for _, n := range s.Ordered() {
		if d, _ := n.Disclaimer(); d.Answered() && n.GetState() == bundle.Published {
			demands = append(demands, n)
			for tag := range n.Wordings() {
				tags[tag] = true
			}
		}
	}
	s.disclaimers = map[string][]byte{}
	for tag := range tags {
		p := DisclaimerPart{Titles: map[string]string{}}
		for _, n := range demands {
			d, _ := n.Disclaimer()
			in := wording.Choose(n.Wordings(), tag, site.Language)
			if p.Words.Done == "" || in == tag {
				p.Words = render.DisclaimerWordsIn(site.Prepared(n, "").Wordings()[in], in)
			}
			title := render.Opening(n, in)
			if doc, ok := document.Get(site.Documents, d.Document); ok {
				text, _ := doc.In(tag, site.Language)
				title = cmp.Or(text.Title, title)
			}
			p.Titles[n.AcknowledgementKey()] = title
		}
		raw, err := encode(p)
		if err != nil {
			return err
		}
		s.disclaimers[tag] = raw
	}
	return nil
}

// Disclaiming returns what the site script's part for disclaimers gets in a
// language, as JSON; nil where the site has none.
func (s *Site) Disclaiming(tag string) []byte {
	return s.disclaimers[lookup.Choose(slices.Collect(maps.Keys(s.disclaimers)), tag, s.Bundle().Site.Language)]
}

// encode writes a value as JSON in which HTML stays as it is, in no more room than it
// takes: pieces are kept as long as their site.
func encode(v any) ([]byte, error) {
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	err := enc.Encode(v)
	return bytes.Clone(bytes.TrimSpace(out.Bytes())), err
}

// Hash returns the fingerprint of a consent notice as a place gets it.
func (s *Site) Hash(id, language string, place consent.PlaceRule) string {
	tag := s.pieces[pieceKey{id, ""}].tag(language, s.Bundle().Site.Language)
	return s.consentForms[id][formKey{tag, place.Rule, place.Words}].hash
}

// Part returns what the site script's consent part gets in a language, as
// JSON; nil where the site asks for no consent.
func (s *Site) Part(language string) *Encoded {
	if p, ok := s.parts[language]; ok {
		return p
	}
	return s.parts[wording.Choose(s.pieces[pieceKey{s.ConsentNotice(), ""}].wordings, language, s.Bundle().Site.Language)]
}
