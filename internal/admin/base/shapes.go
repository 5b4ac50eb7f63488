package base

// Nothing is an empty body.
type Nothing struct{}

// An Address names a person.
type Address struct {
	Email string `json:"email"`
}

// A Moment is a viewpoint's page, moment and visitor.
type Moment struct {
	// Path of the page; the home page if empty.
	Page string `json:"page,omitempty" form:"page"`
	// The instant, RFC 3339, or a local time of the site; now if empty.
	At string `json:"at,omitempty" form:"at"`
	// Language of the page, where it is to be another than its own.
	Language string `json:"language,omitempty" form:"language"`
	// Width of the visitor's window, px.
	Width string `json:"width,omitempty" form:"width"`
	// The visitor's zone; the site's if empty.
	Zone string `json:"zone,omitempty" form:"zone"`
	// What else is known of the visitor, a JSON object of facts by name; nothing if empty.
	Visitor string `json:"visitor,omitempty" form:"visitor"`
	// The ends of the strip of time; a week back to five weeks on if empty. RFC 3339.
	From  string `json:"from,omitempty" form:"from"`
	Until string `json:"until,omitempty" form:"until"`
}
