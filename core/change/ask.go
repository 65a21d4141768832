package change

import (
	"fmt"
	"path"
	"strings"
)

// Asking is a script that asks a Mac, in the machine's folder, whether changes hold there, and says so
// of each; it changes nothing. Its exit code is 1 if one does not hold. What a person does by hand is
// not asked for.
func Asking(changes []Change) string {
	var w strings.Builder
	w.WriteString(askingHead)
	for _, c := range changes {
		if c.Note().Shown {
			continue
		}
		switch c := c.(type) {
		case File:
			if c.Merged {
				fmt.Fprintf(&w, "[ -e %s ]; says $? %s\n", homed(c.Path), ShellWord(path.Base(c.Path)))
			} else if c.Data != nil {
				fmt.Fprintf(&w, "cmp -s %s %s; says $? %s\n", ShellWord(c.In), homed(c.Path), ShellWord(path.Base(c.Path)))
			}
		case Setting:
			if c.Store == Defaults {
				w.WriteString(askPreference(c))
			}
		case Call:
			if c.Holds != "" {
				fmt.Fprintf(&w, "%s\nsays $? %s\n", c.Holds, ShellWord(path.Base(c.In)))
			}
		default: // no other is made on a Mac
		}
	}
	w.WriteString("exit $missing\n")
	return w.String()
}

// homed is a path as a shell knows it.
func homed(p string) string {
	switch rest, ok := strings.CutPrefix(p, "~/"); {
	case p == "~" || p == "~/":
		return p
	case ok: // which the shell knows only if it is bare
		return "~/" + ShellWord(rest)
	}
	return ShellWord(p)
}

// A value is asked for as a property list in XML, without its first three lines and the blanks that
// set it out.
const askingHead = `#!/bin/sh
# Asks this Mac whether what was compiled holds here, and says so of each change. Changes nothing.
cd "$(dirname "$0")" || exit 2
missing=0
says() { if [ "$1" = 0 ]; then echo "holds      $2"; else echo "not there  $2"; missing=1; fi; }
keypath() { p=; for n; do p="$p${p:+.}$(printf %s "$n" | sed 's/\./\\./g')"; done; printf %s "$p"; }
has() { domain=$1; want=$2; shift 2
  now=$(mktemp) && defaults $host export "$domain" "$now" &&
    [ "$(plutil -extract "$(keypath "$@")" xml1 -o - "$now" 2> /dev/null | sed 1,3d | tr -d '\n\t')" = "$want</plist>" ]
  found=$?; rm -f "$now"; return $found; }
`

// asSpelled has a property list in XML as the system spells it, quotes as they stand, without breaks.
var asSpelled = strings.NewReplacer("&#34;", `"`, "&#39;", "'", "&#xA;", "", "&#x9;", "")

func askPreference(c Setting) string {
	p := parsePreference(c.Key)
	host := "host="
	if p.host {
		host += "-currentHost"
	}
	listed, err := inPropertyList(c.To)
	if err != nil {
		return ""
	}
	want := asSpelled.Replace(string(PropertyList(listed)))
	names := visibleWord(p.key)
	if p.inside {
		names += " " + visibleWord(p.entry)
	}
	return fmt.Sprintf("%s; has %s %s %s; says $? %s\n", host, visibleWord(p.domain), visibleWord(want), names,
		visibleWord(strings.TrimPrefix(visible(c.Key), "host/")))
}

// visible is a name without characters that nobody can see.
func visible(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if unseen(r) {
			return ' '
		}
		return r
	}, s))
}
