package host

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"leitstand/core/mechanism/form/keyfile"
)

// App is a program of the machine, as a mapping names it.
type App struct {
	Name string // what a person calls it
	ID   string // the name of its desktop file, or of a command
	Line string // what it starts
}

// Apps finds the programs of a machine whose names or commands hold a word: those with a desktop file, and, with a
// word, the commands of that beginning. Folders are those of desktop files and of commands, in the order in which they count.
// (The Desktop Entry specification.)
func Apps(applications, commands []fs.FS, word string) (list []App) {
	word = strings.ToLower(word)
	seen := map[string]bool{}
	add := func(a App) {
		if !seen[a.ID] {
			seen[a.ID] = true
			list = append(list, a)
		}
	}
	for _, dir := range applications {
		_ = fs.WalkDir(dir, ".", func(name string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || path.Ext(name) != ".desktop" {
				return nil //nolint:nilerr // what cannot be read is none
			}
			text, err := fs.ReadFile(dir, name)
			if err != nil {
				return nil //nolint:nilerr // as above
			}
			a, shown := desktopEntry(string(text))
			a.ID = strings.ReplaceAll(name, "/", "-")
			hold := strings.Contains(strings.ToLower(a.Name+" "+a.ID+" "+a.Line), word)
			if seen[a.ID] = seen[a.ID] || !shown; hold && shown {
				add(a)
			}
			return nil
		})
	}
	slices.SortStableFunc(list, func(a, b App) int { return strings.Compare(a.Name, b.Name) })
	if word == "" {
		return list
	}
	for _, dir := range commands {
		entries, _ := fs.ReadDir(dir, ".") // a folder of PATH that is not there has none
		for _, e := range entries {
			if strings.HasPrefix(strings.ToLower(e.Name()), word) && !e.IsDir() {
				add(App{ID: e.Name()})
			}
		}
	}
	return list
}

// desktopEntry reads a desktop file, and says whether it is a program that is shown.
func desktopEntry(text string) (a App, shown bool) {
	values := keyfile.Keys(text)
	of := func(name string) string { return values[[2]string{"Desktop Entry", name}] }
	a.Name, a.Line = of("Name"), of("Exec")
	return a, of("Type") == "Application" && of("NoDisplay") != "true" && of("Hidden") != "true" && a.Line != ""
}
