package command

import (
	"errors"
	"slices"
	"strings"

	"leitstand/core/behaviour"
)

// expanding is a script that puts the home folder in for a ~ before it starts its words.
const expanding = `for w do shift; case $w in "~" | "~/"*) w=$HOME${w#?} ;; esac; set -- "$@" "$w"; done; exec "$@"`

// Read says what a list of words starts.
func Read(words []string) behaviour.Launch {
	var l behaviour.Launch
	if len(words) > 4 && words[0] == "sh" && words[1] == "-c" && words[2] == expanding {
		words = words[4:]
	} else if slices.ContainsFunc(words, tilde) { // which nothing puts the home folder in for
		return behaviour.Launch{Command: []string{"sh", "-c", literally(words)}}
	}
	if len(words) > 5 && words[0] == "sh" && words[1] == "-c" && words[2] == `cd "$1" && shift && exec "$@"` {
		l.Dir, words = words[4], words[5:]
	}
	if len(words) > 5 && words[0] == "sh" && words[1] == "-c" &&
		words[2] == `zenity --question --text "$1" && shift && exec "$@"` {
		l.Confirm, words = true, words[5:]
	}
	return started(l, words)
}

// tilde says whether a word would name the home folder in a mapping.
func tilde(w string) bool { return w == "~" || strings.HasPrefix(w, "~/") }

// literally is a line for a shell that starts words as they are.
func literally(words []string) string {
	var quoted []string
	for _, w := range words {
		quoted = append(quoted, "'"+strings.ReplaceAll(w, "'", `'\''`)+"'")
	}
	return "exec " + strings.Join(quoted, " ")
}

func started(l behaviour.Launch, words []string) behaviour.Launch {
	switch {
	case len(words) == 2 && words[0] == "gtk-launch":
		l.App = words[1]
	case len(words) == 2 && words[0] == "xdg-open":
		l.Open = words[1]
	default:
		l.Command = words
	}
	return l
}

// ReadScript says what a shell line starts: exec and a program, after a change of
// folder or a question or both.
func ReadScript(line string) (behaviour.Launch, error) {
	l, words, err := readLine(line, []string{"zenity", "--question", "--text"})
	if err != nil {
		return l, err
	}
	return started(l, words), nil
}

// ReadMacScript says what a line for a shell of macOS starts.
func ReadMacScript(line string) (behaviour.Launch, error) {
	l, words, err := readLine(line, []string{"osascript", "-e"})
	switch {
	case err != nil:
	case len(words) == 3 && words[0] == "/usr/bin/open" && words[1] == "-b":
		l.App = words[2]
	case len(words) == 2 && words[0] == "/usr/bin/open":
		l.Open = words[1]
	default:
		l.Command = words
	}
	return l, err
}

// readLine reads a line for a shell: a change of folder, a question by words that end in its text, and
// exec; the words are those behind it.
func readLine(line string, asks []string) (l behaviour.Launch, words []string, err error) {
	words, covered, err := split(line)
	if err != nil {
		return l, nil, err
	}
	if covered {
		return l, nil, errors.New("a ~ in quotes is no home folder")
	}
	if len(words) > 3 && words[0] == "cd" && words[2] == "&&" {
		l.Dir, words = words[1], words[3:]
	}
	if n := len(asks); len(words) > n+2 && slices.Equal(words[:n], asks) && words[n+1] == "&&" {
		l.Confirm, words = true, words[n+2:]
	}
	if len(words) < 2 || words[0] != "exec" {
		return l, nil, errors.New("not the start of a program")
	}
	return l, words[1:], nil
}

// ReadShell says what a line starts that is handed to a shell: the program and its
// arguments where the shell only parts it into words, otherwise a shell with the line.
func ReadShell(line string) behaviour.Launch {
	words, covered, err := split(line)
	first, _, _ := strings.Cut(strings.TrimSpace(line), " ")
	other := covered ||
		slices.ContainsFunc(
			words,
			func(w string) bool { return strings.HasPrefix(w, "~") && !tilde(w) },
		) // another user's home
	if err != nil || len(words) == 0 || other || strings.ContainsAny(line, "$`|&;<>(){}*?[!\n") ||
		strings.Contains(first, "=") {
		return behaviour.Launch{Command: []string{"sh", "-c", line}}
	}
	if slices.ContainsFunc(words, tilde) {
		return started(behaviour.Launch{}, words)
	}
	return Read(words)
}

// Split parts a command line by the rules of g_shell_parse_argv: quotes and
// backslashes as in a shell, a comment from # at a word's start, nothing expanded.
func Split(line string) ([]string, error) {
	words, _, err := split(line)
	return words, err
}

// split is Split, and says whether a quote or a backslash covers a ~ at the beginning of a
// word.
func split(line string) (words []string, covered bool, err error) {
	var word strings.Builder
	in := false
	plain := false // the word begins without a quote
	runes := []rune(line)
	for i := 0; i < len(runes); i++ {
		switch r := runes[i]; {
		case r == '\'':
			in = true
			for i++; i < len(runes) && runes[i] != '\''; i++ {
				word.WriteRune(runes[i])
			}
			if i == len(runes) {
				return nil, false, errors.New("a quote is not closed")
			}
		case r == '"':
			in = true
			for i++; i < len(runes) && runes[i] != '"'; i++ {
				if runes[i] == '\\' && i+1 < len(runes) && strings.ContainsRune("\"\\`$\n", runes[i+1]) {
					i++
				}
				word.WriteRune(runes[i])
			}
			if i == len(runes) {
				return nil, false, errors.New("a quote is not closed")
			}
		case r == '\\' && i+1 < len(runes):
			i++
			if runes[i] != '\n' {
				in = true
				word.WriteRune(runes[i])
			}
		case r == '#' && !in:
			for i < len(runes) && runes[i] != '\n' {
				i++
			}
		case r == ' ' || r == '\t' || r == '\n':
			if in {
				covered = covered || !plain && tilde(word.String())
				words = append(words, word.String())
				word.Reset()
				in = false
			}
		default:
			if !in {
				plain = true
			}
			in = true
			word.WriteRune(r)
		}
		if !in {
			plain = false
		}
	}
	if in {
		covered = covered || !plain && tilde(word.String())
		words = append(words, word.String())
	}
	return words, covered, nil
}
