// Package command says how a launch is started on a Linux desktop: as words for
// programs that start a list of words, as a line for those that split one by GLib's
// rules or hand it to a shell. What writes and what reads it share nothing.
//
// Sources: POSIX, "Shell Command Language"; GLib's documentation of
// g_shell_parse_argv; the manuals of gtk-launch, xdg-open and zenity.
package command

import (
	"slices"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/change"
)

// asks starts the words behind its first, which is a question, if it is answered
// with yes.
const asks = `zenity --question --text "$1" && shift && exec "$@"`

// home starts the words behind its first, with the user's home folder for a ~ at the
// beginning of one.
const home = `for w do shift; case $w in "~" | "~/"*) w=$HOME${w#?} ;; esac; set -- "$@" "$w"; done; exec "$@"`

// inHome says whether a word names the home folder or something in it.
func inHome(word string) bool { return word == "~" || strings.HasPrefix(word, "~/") }

func question(words []string) string { return "Start " + strings.Join(words, " ") + "?" }

// Words is a launch as a list of words, the program first.
func Words(l behaviour.Launch) []string {
	words := program(l)
	if l.Confirm {
		words = append([]string{"sh", "-c", asks, "sh", question(words)}, words...)
	}
	if l.Dir != "" {
		words = append([]string{"sh", "-c", `cd "$1" && shift && exec "$@"`, "sh", l.Dir}, words...)
	}
	if slices.ContainsFunc(words, inHome) {
		words = append([]string{"sh", "-c", home, "sh"}, words...)
	}
	return words
}

func program(l behaviour.Launch) []string {
	switch {
	case l.App != "":
		return []string{"gtk-launch", l.App}
	case l.Open != "":
		return []string{"xdg-open", l.Open}
	}
	return l.Command
}

// Line is words as a line for a shell or for GLib.
func Line(words []string) string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = Quote(w)
	}
	return strings.Join(quoted, " ")
}

// Script is a launch as a line for a shell, which needs no dollar signs.
func Script(l behaviour.Launch) string {
	words := program(l)
	line := "exec " + scriptWords(words)
	if l.Confirm {
		line = Line([]string{"zenity", "--question", "--text", question(words)}) + " && " + line
	}
	if l.Dir != "" {
		line = "cd " + scriptWord(l.Dir) + " && " + line
	}
	return line
}

// MacScript is a launch as a line for a shell of macOS.
func MacScript(l behaviour.Launch) string {
	words := l.Command
	switch {
	case l.App != "":
		words = []string{"/usr/bin/open", "-b", l.App}
	case l.Open != "":
		words = []string{"/usr/bin/open", l.Open}
	}
	line := "exec " + scriptWords(words)
	if l.Confirm { // AppleScript's own way to quote
		asked := strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(question(words))
		line = Line([]string{"osascript", "-e", `display dialog "` + asked + `"`}) + " && " + line
	}
	if l.Dir != "" {
		line = "cd " + scriptWord(l.Dir) + " && " + line
	}
	return line
}

func scriptWords(words []string) string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = scriptWord(w)
	}
	return strings.Join(quoted, " ")
}

// scriptWord is one word for a shell, which puts the home folder in for a ~ that no quote
// covers.
func scriptWord(w string) string {
	rest, inside := strings.CutPrefix(w, "~/")
	switch {
	case w == "~", inside && rest == "":
		return w
	case inside:
		return "~/" + Quote(rest)
	}
	return Quote(w)
}

// Quote makes one word, by rules that GLib and every POSIX shell share: in
// single quotes nothing has a meaning. (The shell library at hand refuses line
// breaks in its POSIX quoting.)
func Quote(w string) string { return change.ShellWord(w) }

// mostClear is how many characters of a launch stand in a comment: some that read a
// configuration take a long line for two.
const mostClear = 160

// Clear is what a launch does, for a comment beside a line that hides it: one short line,
// which does not go on in the next.
func Clear(l behaviour.Launch) string {
	text := []rune(strings.Map(func(r rune) rune {
		if unicode.IsGraphic(r) {
			return r
		}
		return ' '
	}, l.String()))
	if len(text) > mostClear {
		text = append(text[:mostClear-1], '…')
	}
	if text[len(text)-1] == '\\' { // would join the next line
		text = append(text, ' ', '.')
	}
	return string(text)
}
