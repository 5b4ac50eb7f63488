// Command figures puts another figure into the code for each that the docs name, one by one, runs the
// test that docs/figures.md says would fail, and names those that do not.
//
//	go run ./internal/figures [PART]...
//
// With parts, only those whose words or file have one of them.
package main

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// A Row is a figure: the words in which the docs name it, a piece of code with it, what that is
// changed to, and the tests that fail then.
type Row struct {
	Words     string
	File      string
	Code, Put string
	Tests     Tests
}

// Tests are some of one package, by parts of their names.
type Tests struct {
	Names   []string
	Package string
}

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "figures:", err)
		os.Exit(1)
	}
}

func run(parts []string) error {
	rows, _, err := Read("docs/figures.md")
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "figures")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	if err := copyTree(dir, "."); err != nil {
		return err
	}
	tried, unnoticed := 0, 0
	for _, r := range rows {
		if len(parts) > 0 && !slices.ContainsFunc(parts, func(p string) bool {
			return strings.Contains(r.Words, p) || strings.Contains(r.File, p)
		}) {
			continue
		}
		tried++
		switch output, err := r.try(dir); {
		case err != nil:
			return fmt.Errorf("%s: %w\n%s", r.Words, err, output)
		case output != "":
			unnoticed++
			fmt.Printf("not noticed: %s (%s)\n%s\n", r.Words, r.File, output)
		default:
			fmt.Println("noticed:", r.Words)
		}
	}
	fmt.Printf("%d of %d were noticed\n", tried-unnoticed, tried)
	if unnoticed > 0 {
		return errors.New("some were not noticed")
	}
	return nil
}

// try changes the figure in a copy of the project, runs its tests and changes it back. output is
// what the tests said if they passed.
func (r Row) try(dir string) (output string, err error) {
	name := filepath.Join(dir, r.File)
	before, err := os.ReadFile(name)
	if err != nil {
		return "", err
	}
	after, err := r.change(string(before))
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(name, []byte(after), 0o600); err != nil {
		return "", err
	}
	defer func() { err = errors.Join(err, os.WriteFile(name, before, 0o600)) }()
	if strings.HasPrefix(r.File, "sitescript/") {
		build := exec.Command("npm", "run", "--silent", "build")
		build.Dir = filepath.Join(dir, "sitescript")
		if out, err := build.CombinedOutput(); err != nil {
			return string(out), fmt.Errorf("what it was changed to does not build: %w", err)
		}
	}
	test := exec.Command(
		"go", "test", "-tags", "nomsgpack", "-count", "1", "-failfast", "-run", strings.Join(r.Tests.Names, "|"),
		r.Tests.Package,
	)
	test.Dir = dir
	out, err := test.CombinedOutput()
	var exit *exec.ExitError
	if errors.As(err, &exit) && !bytes.Contains(out, []byte("[build failed]")) {
		return "", nil
	}
	return string(out), err
}

var (
	whole  = regexp.MustCompile(`[0-9]+(?:_[0-9]+)*`)
	spaces = regexp.MustCompile(`\s+`)
)

// change returns a file with another figure.
func (r Row) change(file string) (string, error) {
	quoted := strings.Split(r.Code, " ")
	for i, w := range quoted {
		quoted[i] = regexp.QuoteMeta(w)
	}
	found := regexp.MustCompile(strings.Join(quoted, `\s+`)).FindAllStringIndex(file, -1)
	if len(found) != 1 {
		return "", fmt.Errorf("%s has “%s” %d times, and not once", r.File, r.Code, len(found))
	}
	put := r.Put
	if put == "" {
		all := whole.FindAllStringIndex(r.Code, -1)
		if len(all) == 0 {
			return "", fmt.Errorf("“%s” has no number: say with an arrow what it becomes", r.Code)
		}
		last := all[len(all)-1]
		n, err := strconv.Atoi(strings.ReplaceAll(r.Code[last[0]:last[1]], "_", ""))
		if err != nil {
			return "", err
		}
		put = r.Code[:last[0]] + strconv.Itoa(n+1) + r.Code[last[1]:]
	}
	return file[:found[0][0]] + put + file[found[0][1]:], nil
}

// Read reads the list of figures, and what it says are no figures of the program.
func Read(name string) (rows []Row, others []string, err error) {
	raw, err := os.ReadFile(name)
	if err != nil {
		return nil, nil, err
	}
	for line := range strings.Lines(string(raw)) {
		cells := strings.Split(strings.TrimSpace(line), " | ")
		switch {
		case strings.HasPrefix(line, "- "):
			others = append(others, strings.TrimSpace(line[2:]))
		case strings.HasPrefix(line, "| ") && !strings.HasPrefix(line, "| figure "):
			if len(cells) != 3 {
				return nil, nil, fmt.Errorf("a row has three cells: %s", line)
			}
			tests, rest := TestsIn(cells[2])
			code := codeIn(cells[1])
			if len(tests) != 1 || len(rest) > 0 || len(code) < 2 {
				return nil, nil, fmt.Errorf("a row names a file with a piece of code, and tests with a package: %s", line)
			}
			r := Row{Words: strings.TrimPrefix(cells[0], "| "), File: code[0], Code: code[1], Tests: tests[0]}
			if len(code) > 2 {
				r.Put = code[2]
			}
			rows = append(rows, r)
		}
	}
	return rows, others, nil
}

var quotation = regexp.MustCompile("``(.+?)``|`([^`]+)`")

// codeIn returns what stands in a text between backquotes.
func codeIn(s string) (out []string) {
	for _, m := range quotation.FindAllStringSubmatch(s, -1) {
		out = append(out, m[1]+m[2])
	}
	return out
}

var testName = regexp.MustCompile(`^[A-Z][A-Za-z]+$`)

// TestsIn returns the tests that a cell names, each name before its package, and the names that no
// package follows.
func TestsIn(cell string) (out []Tests, rest []string) {
	for _, word := range codeIn(cell) {
		switch {
		case strings.HasPrefix(word, "./") && len(rest) > 0:
			out, rest = append(out, Tests{rest, word}), nil
		case testName.MatchString(word):
			rest = append(rest, word)
		}
	}
	return out, rest
}

// copyTree copies the project, without what it installs: that is linked.
func copyTree(to, from string) error {
	root, err := filepath.Abs(from)
	if err != nil {
		return err
	}
	return filepath.WalkDir(root, func(name string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(root, name)
		if err != nil {
			return err
		}
		at := filepath.Join(to, rel)
		switch {
		case d.Name() == "node_modules":
			if err := os.Symlink(name, at); err != nil {
				return err
			}
			return fs.SkipDir
		case d.IsDir() && slices.Contains([]string{".git", "bin"}, d.Name()):
			return fs.SkipDir
		case d.IsDir():
			return os.MkdirAll(at, 0o700)
		case !d.Type().IsRegular():
			return nil
		}
		raw, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		return os.WriteFile(at, raw, 0o600)
	})
}
