// Command lines names every line of the project's own text that is longer than 120
// characters, and fails if there is one. It is a part of `make lint`.
package main

import (
	"bufio"
	"fmt"
	"io/fs"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"
)

// longest is how many characters a line may have; a tab is one.
const longest = 120

// written are the kinds of files that people write.
var written = []string{
	".css", ".go", ".html", ".js", ".md", ".mjs", ".sh", ".sql", ".ts", ".vue", ".yml", "Makefile",
}

// apart are folders and files that are installed, built, derived or given, or that may
// not be changed any more.
var apart = []string{
	".git", "bin", "dist", "e2e/apps/build", "node_modules", "sitescript/build", "testdata", "web/components.d.ts",
	"web/src/api/schema.d.ts",
	"internal/store/migrations/001_first.sql",
}

func main() {
	log.SetFlags(0)
	found := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case slices.Contains(apart, d.Name()) || slices.Contains(apart, filepath.ToSlash(path)):
			if d.IsDir() {
				return filepath.SkipDir
			}
			return nil
		case d.IsDir() || !slices.ContainsFunc(written, func(end string) bool { return strings.HasSuffix(path, end) }):
			return nil
		}
		n, err := check(path)
		found += n
		return err
	})
	if err != nil {
		log.Fatal(err)
	}
	if found > 0 {
		log.Fatalf("%d lines have more than %d characters", found, longest)
	}
}

// check names the lines of a file that are too long, and counts them. A row of a table in
// Markdown and an address cannot be broken.
func check(path string) (found int, err error) {
	f, err := os.Open(path)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20)
	for n := 1; lines.Scan(); n++ {
		line := lines.Text()
		unbreakable := strings.HasSuffix(path, ".md") && (strings.HasPrefix(line, "|") || strings.Contains(line, "](http"))
		if length := utf8.RuneCountInString(line); length > longest && !unbreakable {
			fmt.Printf("%s:%d: %d characters\n", path, n, length)
			found++
		}
	}
	return found, lines.Err()
}
