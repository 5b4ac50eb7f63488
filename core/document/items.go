package document

import "mastflag/core/closed"

// A State is whether a document says something that it has to say (rule T2).
type State string

const (
	Said State = "said"           // by a section
	Away State = "not-applicable" // by an answer, or because the site has nothing of the kind
	Open State = "open"
)

func (State) Values() []string { return closed.Strings(Said, Away, Open) }

// An Item is something that documents of a kind have to say.
type Item struct {
	ID string `json:"id"`
	// What has to be said, in short.
	What string `json:"what"`
	// The text that demands it.
	Source string `json:"source"`
}

const (
	art13  = "GDPR Art. 13"
	art5   = "Directive 2000/31/EC Art. 5"
	annex  = "Decision (EU) 2018/1523, Annex"
	device = "ePrivacy Directive Art. 5(3)"
	planet = "ePrivacy Directive Art. 5(3); CJEU C-673/17, 75 to 81"
)

// Items returns what documents of a kind have to say; none for those whose text
// nobody prescribes. The sources are cited from memory.
func Items(k Kind) []Item { return items[k] }

var items = map[Kind][]Item{
	Privacy: {
		{"controller", "Who is responsible, and how they are reached", art13 + "(1)(a)"},
		{"officer", "How the data protection officer is reached", art13 + "(1)(b)"},
		{"purposes", "What for, and on which legal basis", art13 + "(1)(c)"},
		{"interests", "Which legitimate interests", art13 + "(1)(d)"},
		{"recipients", "Who gets the data", art13 + "(1)(e)"},
		{"abroad", "Transfers to third countries, and what protects data there", art13 + "(1)(f)"},
		{"kept", "How long data is kept", art13 + "(2)(a)"},
		{"rights", "Access, correction, erasure, restriction, objection, portability", art13 + "(2)(b)"},
		{"withdraw", "That consent can be withdrawn", art13 + "(2)(c)"},
		{"complain", "Complaint to an authority", art13 + "(2)(d)"},
		{"must", "Whether data has to be given, and what happens without", art13 + "(2)(e)"},
		{"automated", "Decisions by machines alone", art13 + "(2)(f)"},
	},
	Cookies: {
		{"purposes", "What is kept, and what for", device},
		{"lasts", "How long it is kept", planet},
		{"others", "Who else gets access", planet},
		{"choice", "That it needs agreement, and how to refuse", device},
		{"withdraw", "How agreement is withdrawn", "GDPR Art. 7(3)"},
	},
	Terms: {
		{"name", "Name of the provider", art5 + "(1)(a)"},
		{"address", "Geographic address", art5 + "(1)(b)"},
		{"contact", "E-mail address and other ways of direct contact", art5 + "(1)(c)"},
		{"register", "Trade or similar register, and number", art5 + "(1)(d)"},
		{"supervision", "Supervisory authority", art5 + "(1)(e)"},
		{"profession", "Regulated profession: body, title, rules", art5 + "(1)(f)"},
		{"vat", "Identification number for value added tax", art5 + "(1)(g)"},
		{"prices", "Prices, with taxes and delivery", art5 + "(2)"},
	},
	Accessibility: {
		{"commitment", "Commitment, law, and what the statement applies to", annex + ", section 1"},
		{"status", "Compliance status", annex + ", section 1"},
		{"gaps", "What is not accessible", annex + ", section 1(a)"},
		{"burden", "Disproportionate burden", annex + ", section 1(b)"},
		{"outside", "Content outside the scope of the law", annex + ", section 1(c)"},
		{"prepared", "When and how the statement was prepared", annex + ", section 1"},
		{"feedback", "Feedback and contact", annex + ", section 1"},
		{"enforcement", "Enforcement procedure", annex + ", section 1"},
	},
}

// A Point is an item with its state in a document.
type Point struct {
	Item
	State State `json:"state"`
	// The section that says it, or would; "" if none does.
	Section string `json:"section,omitempty"`
	// Why it does not apply, or what is missing.
	Why string `json:"why,omitempty"`
	// The question whose answer settles it, where there is one.
	Question string `json:"question,omitempty"`
}
