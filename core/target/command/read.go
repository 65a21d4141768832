package command

import (
	"errors"
	"strings"

	"leitstand/core/behaviour"
)

// Read says what a list of words starts.
func Read(words []string) behaviour.Launch {
	var l behaviour.Launch
	if len(words) > 5 && words[0] == "sh" && words[1] == "-c" && words[2] == `cd "$1" && shift && exec "$@"` {
		l.Dir, words = words[4], words[5:]
	}
	if len(words) > 5 && words[0] == "sh" && words[1] == "-c" && words[2] == `zenity --question --text "$1" && shift && exec "$@"` {
		l.Confirm, words = true, words[5:]
	}
	return started(l, words)
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
	var l behaviour.Launch
	words, err := Split(line)
	if err != nil {
		return l, err
	}
	if len(words) > 3 && words[0] == "cd" && words[2] == "&&" {
		l.Dir, words = words[1], words[3:]
	}
	if len(words) > 5 && words[0] == "zenity" && words[1] == "--question" && words[2] == "--text" && words[4] == "&&" {
		l.Confirm, words = true, words[5:]
	}
	if len(words) < 2 || words[0] != "exec" {
		return l, errors.New("not the start of a program")
	}
	return started(l, words[1:]), nil
}

// ReadShell says what a line starts that is handed to a shell: the program and its
// arguments where the shell only parts it into words, otherwise a shell with the line.
func ReadShell(line string) behaviour.Launch {
	words, err := Split(line)
	first, _, _ := strings.Cut(strings.TrimSpace(line), " ")
	if err != nil || len(words) == 0 || strings.ContainsAny(line, "$`|&;<>(){}*?[~!\n") || strings.Contains(first, "=") {
		return behaviour.Launch{Command: []string{"sh", "-c", line}}
	}
	return Read(words)
}

// Split parts a command line by the rules of g_shell_parse_argv: quotes and
// backslashes as in a shell, a comment from # at a word's start, nothing expanded.
func Split(line string) ([]string, error) {
	var words []string
	var word strings.Builder
	in := false
	runes := []rune(line)
	for i := 0; i < len(runes); i++ {
		switch r := runes[i]; {
		case r == '\'':
			in = true
			for i++; i < len(runes) && runes[i] != '\''; i++ {
				word.WriteRune(runes[i])
			}
			if i == len(runes) {
				return nil, errors.New("a quote is not closed")
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
				return nil, errors.New("a quote is not closed")
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
				words = append(words, word.String())
				word.Reset()
				in = false
			}
		default:
			in = true
			word.WriteRune(r)
		}
	}
	if in {
		words = append(words, word.String())
	}
	return words, nil
}
