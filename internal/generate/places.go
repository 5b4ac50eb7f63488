package main

import (
	"bytes"
	"net"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
)

// standInPlaces are address ranges kept for documentation (RFC 5737,
// RFC 3849), as if they lay in these places.
var standInPlaces = []struct{ network, country, region string }{
	{"192.0.2.0/26", "GB", "SCT"}, {"192.0.2.64/26", "DE", "HH"}, {"192.0.2.128/26", "PL", "PM"},
	{"192.0.2.192/26", "FR", "BRE"},
	{"198.51.100.0/25", "NO", "46"}, {"198.51.100.128/25", "US", "CA"},
	{"203.0.113.0/25", "CH", "ZH"}, {"203.0.113.128/25", "CA", "QC"},
	{
		"2001:db8:44::/48", "GB", "SCT",
	}, {"2001:db8:49::/48", "DE", "HH"}, {"2001:db8:48::/48", "PL", "PM"}, {"2001:db8:1::/48", "US", "CA"},
}

// placesFile makes the stand-in MMDB file. The same places give the same bytes.
func placesFile() ([]byte, error) {
	tree, err := mmdbwriter.New(mmdbwriter.Options{
		BuildEpoch:              1_790_000_000,
		DatabaseType:            "Mast-Flag-Stand-In",
		Description:             map[string]string{"en": "Places of documentation addresses"},
		IncludeReservedNetworks: true,
	})
	if err != nil {
		return nil, err
	}
	for _, p := range standInPlaces {
		_, network, err := net.ParseCIDR(p.network)
		if err != nil {
			return nil, err
		}
		err = tree.Insert(network, mmdbtype.Map{
			"country":      mmdbtype.Map{"iso_code": mmdbtype.String(p.country)},
			"subdivisions": mmdbtype.Slice{mmdbtype.Map{"iso_code": mmdbtype.String(p.region)}},
		})
		if err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	_, err = tree.WriteTo(&out)
	return out.Bytes(), err
}
