package document

import (
	"fmt"
	"net/mail"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/closed"
)

// A Form is how a question is answered.
type Form string

const (
	Line    Form = "line"
	Lines   Form = "lines"
	Email   Form = "email"
	Phone   Form = "phone"
	Choice  Form = "choice"
	Choices Form = "choices" // several, with commas between
	Day     Form = "day"
	Number  Form = "number"
)

func (Form) Values() []string {
	return closed.Strings(Line, Lines, Email, Phone, Choice, Choices, Day, Number)
}

// None answers a question of the form Choices: nothing of that.
const None = "none"

// An Option is one of the answers to a choice.
type Option struct {
	ID  string `json:"id"`
	Say string `json:"say"`
}

// A Question is something that only people know.
type Question struct {
	ID   string `json:"id"`
	Ask  string `json:"ask"`
	Help string `json:"help,omitempty"`
	Form Form   `json:"form"`
	// Of a choice.
	Options []Option `json:"options,omitempty"`
	// An answer in one document serves the others.
	Shared bool `json:"shared,omitempty"`
	// Nothing depends on it but a better text.
	Optional bool `json:"optional,omitempty"`

	kinds []Kind
	// Asked only where these answers say so.
	when func(answers map[string]string) bool
}

func (q Question) of(k Kind) bool { return slices.Contains(q.kinds, k) }

func is(id, want string) func(map[string]string) bool {
	return func(a map[string]string) bool { return a[id] == want }
}

func yesNo(yes, no string) []Option { return []Option{{"yes", yes}, {"no", no}} }

// Topics are what a disclaimer can be about.
var Topics = []Option{
	{"general", "General information"},
	{"medical", "No medical advice"},
	{"legal", "No legal advice"},
	{"financial", "No financial advice"},
	{"advertising", "Advertising and affiliate links"},
	{"safety", "Safety before an activity"},
	{"age", "Age"},
	{"views", "Views are one’s own"},
	{"machine", "Made or translated by a machine"},
	{"external", "External links"},
	{"prices", "Prices and availability"},
	{"recording", "Recording of events"},
}

var questions = []Question{
	{ID: "topic", Ask: "What is it about?", Form: Choice, Options: Topics, kinds: []Kind{Disclaimer}},
	{ID: "age", Ask: "From which age?", Form: Number, kinds: []Kind{Disclaimer}, when: is("topic", "age")},
	{
		ID:       "voice",
		Ask:      "Who speaks?",
		Form:     Choice,
		Options:  []Option{{"we", "We"}, {"I", "I"}},
		Shared:   true,
		Optional: true,
		kinds:    []Kind{Privacy, Cookies, Terms, Accessibility, Disclaimer},
	},
	{
		ID:     "operator",
		Ask:    "Who runs the site?",
		Help:   "The full name, as in contracts.",
		Form:   Line,
		Shared: true,
		kinds:  []Kind{Privacy, Terms, Accessibility},
	},
	{ID: "address", Ask: "Their postal address?", Form: Lines, Shared: true, kinds: []Kind{Privacy, Terms}},
	{
		ID:     "email",
		Ask:    "E-mail address for questions?",
		Form:   Email,
		Shared: true,
		kinds:  []Kind{Privacy, Terms, Accessibility},
	},
	{
		ID:       "phone",
		Ask:      "Telephone?",
		Form:     Phone,
		Shared:   true,
		Optional: true,
		kinds:    []Kind{Privacy, Terms, Accessibility},
	},
	{
		ID:      "officer",
		Ask:     "Do you have a data protection officer?",
		Form:    Choice,
		Options: []Option{{"named", "Yes"}, {None, "No, we need none"}},
		kinds:   []Kind{Privacy},
	},
	{
		ID:    "officerContact",
		Ask:   "How are they reached?",
		Form:  Line,
		kinds: []Kind{Privacy},
		when:  is("officer", "named"),
	},
	{
		ID:   "uses",
		Ask:  "What do you use people’s data for?",
		Help: "What the site keeps on visitors’ devices is known already.",
		Form: Choices,
		Options: []Option{
			{"visits", "The server notes each request"},
			{"contact", "Enquiries"},
			{"orders", "Orders or bookings"},
			{"account", "Accounts"},
			{"newsletter", "Newsletter"},
			{"jobs", "Job applications"},
			{"comments", "Comments"},
		},
		kinds: []Kind{Privacy},
	},
	{
		ID:      "logs",
		Ask:     "How long are notes of requests kept?",
		Form:    Choice,
		Options: []Option{{"P7D", "7 days"}, {"P14D", "14 days"}, {"P30D", "30 days"}, {"P90D", "90 days"}},
		kinds:   []Kind{Privacy},
		when:    func(a map[string]string) bool { return chosen(a["uses"], "visits") },
	},
	{
		ID:   "recipients",
		Ask:  "Who else gets such data?",
		Help: "Whoever the inventory names is listed already.",
		Form: Choices,
		Options: []Option{
			{"hosting", "Whoever runs the servers"},
			{"payment", "Payment services"},
			{"delivery", "Carriers and partners"},
			{"mail", "A mail service"},
			{"accounting", "Tax advisers, accountants"},
			{"authorities", "Authorities"},
		},
		kinds: []Kind{Privacy},
	},
	{
		ID:   "abroad",
		Ask:  "Does any of them work outside the European Economic Area?",
		Form: Choice,
		Options: []Option{
			{"no", "No"},
			{"adequacy", "Yes, where the Commission finds data well protected"},
			{"clauses", "Yes, bound by standard contractual clauses"},
		},
		kinds: []Kind{Privacy},
	},
	{
		ID:      "automated",
		Ask:     "Does a machine alone decide anything about people?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Privacy},
	},
	{
		ID:       "authority",
		Ask:      "Which data protection authority is yours?",
		Form:     Line,
		Optional: true,
		kinds:    []Kind{Privacy},
	},

	{
		ID:      "register",
		Ask:     "Are you in a trade or similar register?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Terms},
	},
	{
		ID:    "registerEntry",
		Ask:   "Which register, and under which number?",
		Form:  Line,
		kinds: []Kind{Terms},
		when:  is("register", "yes"),
	},
	{
		ID:      "licensed",
		Ask:     "Does your activity need an authorisation?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Terms},
	},
	{
		ID:    "supervisor",
		Ask:   "Which authority supervises it?",
		Form:  Line,
		kinds: []Kind{Terms},
		when:  is("licensed", "yes"),
	},
	{
		ID:      "regulated",
		Ask:     "Is yours a regulated profession?",
		Help:    "Physicians, lawyers and architects, for instance.",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Terms},
	},
	{
		ID:    "professionEntry",
		Ask:   "Body, title, state that granted it, and rules?",
		Form:  Line,
		kinds: []Kind{Terms},
		when:  is("regulated", "yes"),
	},
	{
		ID:      "taxed",
		Ask:     "Do you have an identification number for value added tax?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Terms},
	},
	{ID: "vatNumber", Ask: "Which?", Form: Line, kinds: []Kind{Terms}, when: is("taxed", "yes")},
	{
		ID:   "prices",
		Ask:  "Does the site state prices?",
		Form: Choice,
		Options: []Option{
			{"no", "No"},
			{"all", "Yes, with taxes and delivery"},
			{"extra", "Yes, with taxes; delivery is added"},
		},
		kinds: []Kind{Terms},
	},
	{
		ID:       "law",
		Ask:      "The law of which country applies?",
		Help:     "Two letters of ISO 3166-1, such as GB, are written out in each language.",
		Form:     Line,
		Optional: true,
		kinds:    []Kind{Terms},
	},

	{
		ID:    "act",
		Ask:   "Which law on accessibility applies to you?",
		Help:  "Such as the national law that carries out Directive (EU) 2016/2102.",
		Form:  Line,
		kinds: []Kind{Accessibility},
	},
	{
		ID:      "status",
		Ask:     "How far does the site comply?",
		Form:    Choice,
		Options: []Option{{"full", "Fully"}, {"partial", "In part"}, {"non", "Not"}},
		kinds:   []Kind{Accessibility},
	},
	{
		ID:      "burden",
		Ask:     "Is anything left as it is because changing it would be a disproportionate burden?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Accessibility},
	},
	{
		ID:      "outside",
		Ask:     "Is any content outside the scope of that law?",
		Form:    Choice,
		Options: yesNo("Yes", "No"),
		kinds:   []Kind{Accessibility},
	},
	{
		ID:      "method",
		Ask:     "Who judged the site?",
		Form:    Choice,
		Options: []Option{{"self", "We did"}, {"third", "Someone else did"}},
		kinds:   []Kind{Accessibility},
	},
	{ID: "preparedOn", Ask: "On which day?", Form: Day, kinds: []Kind{Accessibility}},
	{
		ID:    "enforcer",
		Ask:   "Whom can people turn to who are not satisfied?",
		Help:  "The body for the enforcement procedure, and how it is reached.",
		Form:  Lines,
		kinds: []Kind{Accessibility},
	},
}

func question(id string) (Question, bool) {
	i := slices.IndexFunc(questions, func(q Question) bool { return q.ID == id })
	if i < 0 {
		return Question{}, false
	}
	return questions[i], true
}

// Questions returns what is asked for a document with these answers, in order.
func Questions(k Kind, answers map[string]string) []Question {
	out := []Question{}
	for _, q := range questions {
		if q.of(k) && (q.when == nil || q.when(answers)) {
			out = append(out, q)
		}
	}
	return out
}

// chosen reports whether a list of choices has an option.
func chosen(list, option string) bool { return slices.Contains(strings.Split(list, ","), option) }

// maxAnswer is how long an answer may be, in characters.
const maxAnswer = 500

var (
	phone        = regexp.MustCompile(`^[+0-9][0-9 ()/.-]{2,39}$`)
	oneLine      = regexp.MustCompile(`^[^\x00-\x1f\x7f\x{2028}\x{2029}]*$`)
	severalLines = regexp.MustCompile(`^[^\x00-\x09\x0b-\x1f\x7f\x{2028}\x{2029}]*$`)
)

// wrong says what is wrong with an answer, and what would be accepted; "" if
// nothing is. The empty answer is none, and right.
func (q Question) wrong(v string) (what, remedy string) {
	var ids []string
	for _, o := range q.Options {
		ids = append(ids, o.ID)
	}
	listed := func(v string) bool { return slices.Contains(ids, v) || q.Form == Choices && v == None }
	switch {
	case v == "":
		return "", ""
	case len([]rune(v)) > maxAnswer:
		return "the answer is longer than " + strconv.Itoa(
			maxAnswer,
		) + " characters", "shorten it, or write the section by hand"
	case q.Form != Lines && !oneLine.MatchString(v) || !severalLines.MatchString(v):
		return "the answer holds a character that cannot be shown", "write it anew, in one line"
	}
	switch q.Form {
	case Email:
		// What net/mail reads as a bare address, one that needs no quotes and no names.
		a, err := mail.ParseAddress(v)
		if err != nil || a.Address != v || strings.ContainsAny(v, " \"<>") {
			return fmt.Sprintf("%q is not an e-mail address", v), "write it like harbour@example.org"
		}
	case Phone:
		if !phone.MatchString(v) {
			return fmt.Sprintf("%q is not a telephone number", v), "write it like +44 1632 960 123"
		}
	case Choice:
		if !listed(v) {
			return fmt.Sprintf("%q is none of the answers", v), "use one of " + strings.Join(ids, ", ")
		}
	case Choices:
		for _, c := range strings.Split(v, ",") {
			if !listed(c) {
				return fmt.Sprintf(
						"%q is none of the answers",
						c,
					), "use some of " + strings.Join(
						ids,
						", ",
					) + " with commas between, or " + None
			}
		}
		if chosen(v, None) && v != None {
			return "it says that there is none, and some", "use " + None + " alone"
		}
	case Day:
		if _, err := time.Parse(time.DateOnly, v); err != nil {
			return fmt.Sprintf("%q is not a day", v), "write it like 2026-11-20"
		}
	case Number:
		if n, err := strconv.Atoi(v); err != nil || n < 1 || n > 120 {
			return fmt.Sprintf("%q is not a number from 1 to 120", v), "give one, such as 18"
		}
	}
	return "", ""
}
