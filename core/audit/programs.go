package audit

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/land"
)

// started looks at what a press starts: signs that only a shell knows, and things to open
// that are neither an address nor a path.
func (a *auditor) started(l land.Landing) {
	e := l.Binding.Effect.Launch()
	if open := e.Open; open != "" && !address(open) && !isPath(open) {
		a.add(
			"no-address", l.Rule, l.Range,
			fmt.Sprintf("%q is neither an address, which begins with a scheme, nor a path", open),
			fmt.Sprintf("write %q for a web page, or a path from ~/ or / on for a file", "https://"+open),
		)
	}
	if len(e.Command) == 0 || slices.Contains(shells, programName(e.Command[0])) {
		return
	}
	for _, w := range e.Command {
		if sign := shellSign(w); sign != "" {
			a.add("no-shell", l.Rule, l.Range, fmt.Sprintf("no shell looks at %q, so %s stands for itself", w, sign),
				"write ~/ for your home folder, or start a shell: run = [\"sh\", \"-c\", \"…\"]")
			return
		}
	}
}

// address says whether a text begins with a scheme.
func address(text string) bool {
	scheme, _, ok := strings.Cut(text, ":")
	return ok && len(scheme) > 1 && !strings.ContainsFunc(scheme, func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || strings.ContainsRune("+-.", r))
	})
}

// isPath says whether a text is a path that does not depend on where a program is started.
func isPath(text string) bool {
	drive := len(text) > 2 && text[1] == ':' && (text[2] == '\\' || text[2] == '/')
	return drive || text == "~" ||
		slices.ContainsFunc(
			[]string{"/", "~/", `\\`, "%", "./", "../"},
			func(p string) bool { return strings.HasPrefix(text, p) },
		)
}

// shellSign is what of a word only a shell would do something with, "" for nothing.
func shellSign(word string) string {
	if slices.Contains([]string{"|", "||", "&", "&&", ";", ">", ">>", "<", "2>"}, word) {
		return word
	}
	for i := strings.IndexByte(word, '$'); i >= 0 && i+1 < len(word); {
		if c := word[i+1]; c == '{' || c == '(' || c == '_' || c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' {
			return "$"
		}
		next := strings.IndexByte(word[i+1:], '$')
		if next < 0 {
			break
		}
		i += next + 1
	}
	return ""
}

// ending are programs that end a session or lose data, and the words that make
// them do it; none for any.
var ending = map[string][]string{
	"systemctl": {
		"poweroff", "reboot", "halt", "suspend", "hibernate", "kexec", "soft-reboot", "exit",
	}, "loginctl": {"terminate-session", "terminate-user", "kill-session"},
	"shutdown": nil, "poweroff": nil, "reboot": nil, "halt": nil, "shutdown.exe": nil, "logoff.exe": nil,
	"xfce4-session-logout": nil, "gnome-session-quit": nil, "mate-session-save": nil, "qdbus": {"logout"},
	"i3-msg": {"exit"}, "swaymsg": {"exit"},
	"rm": {"-r", "-rf", "-fr", "--recursive"}, "mkfs": nil, "dd": nil, "wipefs": nil,
	"osascript": {"shut down", "restart", "log out"}, "pmset": {"sleepnow"},
}

// starters are programs that start the one named behind them.
var starters = []string{"sudo", "doas", "pkexec", "env", "nohup", "exec", "setsid", "nice"}

// shells are programs that take a line of commands as one word.
var shells = []string{"sh", "bash", "dash", "zsh", "fish", "cmd", "cmd.exe", "powershell", "powershell.exe", "pwsh"}

// ends says whether an effect ends the session or loses data without a question, unless the
// rule wants one.
func ends(e behaviour.Effect, confirmed bool) (string, bool) {
	switch {
	case e.Kind == behaviour.Acts && slices.Contains([]string{"suspend", "log-out", "power-off", "restart"}, e.Action):
		return e.String(), !confirmed
	case e.Kind != behaviour.Launches || e.Launch().Confirm || len(e.Launch().Command) == 0:
		return "", false
	}
	if !endsBy(e.Launch().Command) {
		return "", false
	}
	return e.Launch().String(), true
}

// endsBy says whether a command does, by itself or by what it starts.
func endsBy(words []string) bool {
	for len(words) > 0 &&
		(slices.Contains(starters, programName(words[0])) || strings.HasPrefix(words[0], "-") || strings.Contains(words[0], "=")) {
		words = words[1:]
	}
	if len(words) == 0 {
		return false
	}
	name := programName(words[0])
	if slices.Contains(shells, name) {
		return slices.ContainsFunc(words[1:], func(line string) bool {
			return slices.ContainsFunc(
				strings.FieldsFunc(line, func(r rune) bool { return strings.ContainsRune("|&;\n()", r) }),
				func(command string) bool {
					return endsBy(strings.Fields(command))
				},
			)
		})
	}
	args, known := ending[name]
	return known && (args == nil || slices.ContainsFunc(words[1:], func(w string) bool {
		return slices.ContainsFunc(args, func(arg string) bool {
			return w == arg || strings.Contains(arg, " ") && strings.Contains(w, arg) ||
				name == "osascript" && strings.Contains(w, arg)
		})
	}))
}

// programName is the name of a program without its folder.
func programName(word string) string {
	return path.Base(strings.ToLower(word[strings.LastIndexAny(word, `/\\`)+1:]))
}
