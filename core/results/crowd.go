package results

// When acts of one network on a notice are set aside: beyond so many in a day, more than one part in
// so many of all, where so many other networks took part.
const (
	maxOfNetwork  = 200
	partOfAll     = 10
	otherNetworks = 20
)

// IsCrowd reports whether acts on a notice are to be set aside, because far too many in a day come
// from the network that they come from (rule E1): it had so many of all, and so many networks took
// part, it among them. So a school or an office behind one address counts on its own site, and
// somebody who forges views of a site with many visitors changes little.
func IsCrowd(ofNetwork, ofAll, networks int) bool {
	return ofNetwork > maxOfNetwork && ofNetwork*partOfAll > ofAll && networks > otherNetworks
}
