// Command licences writes the licences of all that ships within the program: Go
// modules, packages of the interface, fonts, icons and data. The build calls it;
// what has no licence that can be found fails it.
package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
)

// A work is something that ships, by name and version, with its licence's text.
type work struct{ name, text string }

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "licences:", err)
		os.Exit(1)
	}
}

func run(args []string) error {
	if len(args) != 1 {
		return errors.New("name the file to write")
	}
	var all []work
	for _, collect := range []func() ([]work, error){modules, packages, data} {
		list, err := collect()
		if err != nil {
			return err
		}
		all = append(all, list...)
	}
	slices.SortFunc(all, func(a, b work) int { return cmp.Compare(a.name, b.name) })
	var b bytes.Buffer
	own, err := os.ReadFile("LICENSE")
	if err != nil {
		return err
	}
	fmt.Fprintf(&b, "Mast Flag\n\n%s\n\nIt is built from, and ships with, what follows.\n", bytes.TrimSpace(own))
	for _, w := range all {
		fmt.Fprintf(&b, "\n%s\n%s\n\n%s\n", strings.Repeat("-", 78), w.name, strings.TrimSpace(w.text))
	}
	return os.WriteFile(args[0], b.Bytes(), 0o644)
}

// modules are the Go modules of which something is in the program, and Go itself.
func modules() ([]work, error) {
	out, err := exec.Command(
		"go", "list", "-tags", "nomsgpack", "-deps", "-f",
		"{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/mastflag",
	).Output()
	if err != nil {
		return nil, fmt.Errorf("listing modules: %w", err)
	}
	list := strings.Fields(strings.ReplaceAll(string(out), "\t", "|"))
	slices.Sort(list)
	var all []work
	for _, line := range slices.Compact(list) {
		parts := strings.SplitN(line, "|", 3)
		text, err := licence(parts[2])
		if err != nil {
			return nil, fmt.Errorf("module %s: %w", parts[0], err)
		}
		all = append(all, work{"Go module " + parts[0] + " " + parts[1], text})
	}
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	text, err := licence(strings.TrimSpace(string(root)))
	return append(all, work{"Go standard library and time zone data, " + runtime.Version(), text}), err
}

// packages are those that the interface is built from: of the lock file, what is
// not for development alone; the icons, which the build draws in; and the check for
// accessibility, which inspections run.
func packages() ([]work, error) {
	raw, err := os.ReadFile("package-lock.json")
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License string
			Dev, Link        bool
		}
	}
	if err := json.Unmarshal(raw, &lock); err != nil {
		return nil, err
	}
	var all []work
	for dir, p := range lock.Packages {
		name, ok := strings.CutPrefix(dir, "node_modules/")
		if !ok || p.Link || p.Dev && name != "@iconify-json/tabler" && name != "axe-core" ||
			strings.HasPrefix(name, "@types/") {
			continue
		}
		text, err := licence(dir)
		if err != nil { // some name theirs and leave the text out
			if text = named[p.License]; text == "" {
				return nil, fmt.Errorf("package %s, %s: %w", name, p.License, err)
			}
			text = "Licence: " + p.License + "\n\n" + text
		}
		all = append(all, work{"npm package " + name + " " + p.Version, text})
	}
	return all, nil
}

// data is what ships as data, beside modules and packages.
func data() ([]work, error) {
	return []work{
		{"Icons for notices", "Outlines of Tabler Icons, Copyright (c) 2020-2026 Paweł Kuna.\n\n" + named["MIT"]},
		{
			"Names of units of time",
			"Written by Node's Intl from the Unicode Common Locale Data Repository, Copyright © 1991-2026 Unicode, Inc.; " +
				"Unicode License v3 (SPDX: Unicode-3.0).",
		},
		{"Public suffix list", "In the Go module golang.org/x/net; Mozilla Public License 2.0 (SPDX: MPL-2.0)."},
	}, nil
}

// licence returns the text of the licence that lies in a folder, or in one above
// it within the same module.
func licence(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var texts []string
	for _, e := range entries {
		name := strings.ToUpper(e.Name())
		if !e.IsDir() && (strings.HasPrefix(name, "LICEN") || strings.HasPrefix(name, "COPYING") ||
			strings.HasPrefix(name, "NOTICE")) && !strings.HasSuffix(name, ".GO") {
			raw, err := os.ReadFile(filepath.Join(dir, e.Name()))
			if err != nil {
				return "", err
			}
			texts = append(texts, strings.TrimSpace(strings.ToValidUTF8(string(raw), "")))
		}
	}
	if len(texts) == 0 {
		return "", fmt.Errorf("no licence lies in %s", filepath.Base(dir))
	}
	return strings.Join(texts, "\n\n"), nil
}

// named are texts of licences that packages only name.
var named = map[string]string{
	"MIT": `Permission is hereby granted, free of charge, to any person obtaining a copy of this software and ` +
		`associated documentation files (the "Software"), to deal in the Software without restriction, including without ` +
		`limitation the rights to use, copy, modify, merge, publish, distribute, sublicense, and/or sell copies of the ` +
		`Software, and to permit persons to whom the Software is furnished to do so, subject to the following conditions:

The above copyright notice and this permission notice shall be included in all copies or substantial portions of ` +
		`the Software.

THE SOFTWARE IS PROVIDED "AS IS", WITHOUT WARRANTY OF ANY KIND, EXPRESS OR IMPLIED, INCLUDING BUT NOT LIMITED TO ` +
		`THE WARRANTIES OF MERCHANTABILITY, FITNESS FOR A PARTICULAR PURPOSE AND NONINFRINGEMENT. IN NO EVENT SHALL THE ` +
		`AUTHORS OR COPYRIGHT HOLDERS BE LIABLE FOR ANY CLAIM, DAMAGES OR OTHER LIABILITY, WHETHER IN AN ACTION OF ` +
		`CONTRACT, TORT OR OTHERWISE, ARISING FROM, OUT OF OR IN CONNECTION WITH THE SOFTWARE OR THE USE OR OTHER DEALINGS ` +
		`IN THE SOFTWARE.`,
}
