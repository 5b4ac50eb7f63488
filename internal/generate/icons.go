package main

import (
	"encoding/json"
	"os"
	"strings"

	"mastflag/core/icon"
)

// iconsFile packs the outlines of the icon set that npm has installed.
func iconsFile() ([]byte, error) {
	raw, err := os.ReadFile("node_modules/@iconify-json/tabler/icons.json")
	if err != nil {
		return nil, err
	}
	var set struct {
		Icons map[string]struct {
			Body   string `json:"body"`
			Hidden bool   `json:"hidden"`
		} `json:"icons"`
	}
	if err := json.Unmarshal(raw, &set); err != nil {
		return nil, err
	}
	bodies := map[string]string{}
	for name, i := range set.Icons {
		if !i.Hidden && !strings.HasSuffix(name, "-filled") && !strings.HasPrefix(name, "brand-") &&
			!strings.Contains(i.Body, "id=") { // ids of two on one page would be the same
			bodies[name] = i.Body
		}
	}
	return icon.Pack(bodies)
}
