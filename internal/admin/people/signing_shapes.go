package people

// Me is who is signed in, and what there is to work on.
type Me struct {
	Person Person     `json:"person"`
	Sites  []SiteName `json:"sites"`
	// The clock is a stand-in that can be set, as in the demo.
	ClockCanBeSet bool `json:"clockCanBeSet"`
}

// A SiteName is a site in a list of sites.
type SiteName struct {
	Key  string `json:"key"`
	Name string `json:"name"`
	// Tags of all its languages, the main one first.
	Languages []string `json:"languages"`
}

// Credentials sign someone in.
type Credentials struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

// A ClockSetting sets the stand-in clock; back to the machine's if At is empty.
type ClockSetting struct {
	At string `json:"at,omitempty"`
}
