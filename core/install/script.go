package install

import (
	"encoding/base64"
	"fmt"
	"path"
	"strings"
	"unicode/utf8"

	"leitstand/core/change"
)

// Script spells steps as a script of the shell, for who has the rights, or no leitstand. It changes nothing that is not
// as it was when the steps were planned.
func Script(says string, steps []Step) []byte {
	var w strings.Builder
	w.WriteString("#!/bin/sh\n")
	for line := range strings.Lines(says) {
		w.WriteString("# " + line)
	}
	w.WriteString("\nset -eu\numask 022\n" + scriptTools)
	for _, s := range steps {
		if s.Do != nil {
			w.WriteString("\n" + told(s) + "\n")
		}
		for _, write := range s.Writes { // no two have one chord, so all give theirs up first
			if write.Path == "" && write.Store == change.Keeper {
				for _, line := range change.KeeperRelease(write.Key) {
					w.WriteString(line + "\n")
				}
			}
		}
		for _, write := range s.Writes {
			w.WriteString("\n")
			if write.Path != "" {
				scriptFile(&w, write)
			} else {
				scriptValue(&w, write)
			}
		}
	}
	return []byte(w.String())
}

// scriptTools asks whether a file is as it was, by its digest ("-" for none), and says whether it is to be written.
const scriptTools = `
digest() { if [ -e "$1" ]; then sha256sum < "$1" | cut -d ' ' -f 1; else echo -; fi; }
due() {
  case $(digest "$1") in
    "$3") return 1 ;;
    "$2") return 0 ;;
  esac
  echo "$1 has been changed since; nothing more is done" >&2
  exit 1
}
`

// scriptFile writes a file, whole or not at all.
func scriptFile(w *strings.Builder, f Write) {
	at := homeWord(f.Path)
	fmt.Fprintf(w, "if due %s %s %s; then\n", at, scriptDigest(f.From), scriptDigest(f.To))
	data := f.To.File.Data
	if data == nil {
		fmt.Fprintf(w, "  rm -f %s\n", at)
		if isRecord(f.Path) { // its folders go with the last one
			fmt.Fprintf(w, "  rmdir -p %s 2> /dev/null || true\n", homeWord(path.Dir(f.Path)))
		}
		w.WriteString("fi\n")
		return
	}
	// A name that no file has, made as a new file that only its owner can read.
	const aside = `"$new"`
	fmt.Fprintf(w, "  mkdir -p %s\n", homeWord(path.Dir(f.Path)))
	fmt.Fprintf(w, "  new=$(mktemp %s)\n", homeWord(path.Dir(f.Path)+"/."+path.Base(f.Path)+".XXXXXX"))
	const end = "END-OF-FILE"
	text := string(data)
	if utf8.ValidString(text) && strings.HasSuffix(text, "\n") && !strings.Contains(text, end) &&
		!strings.ContainsAny(text, "\x00\r") {
		fmt.Fprintf(w, "  cat > %s <<'%s'\n%s%s\n", aside, end, text, end)
	} else {
		fmt.Fprintf(w, "  base64 -d > %s <<'%s'\n%s\n%s\n", aside, end, base64.StdEncoding.EncodeToString(data), end)
	}
	mode := f.To.File.Mode
	if mode == 0 {
		mode = 0o644
	}
	fmt.Fprintf(w, "  chmod %o %s\n", mode, aside)
	if f.To.File.Owned {
		fmt.Fprintf(w, "  chown %d:%d %s\n", f.To.File.UID, f.To.File.GID, aside)
	}
	if at := f.To.File.Time; !at.IsZero() {
		fmt.Fprintf(w, "  touch -d @%d.%09d %s\n", at.Unix(), at.Nanosecond(), aside)
	}
	// A link stays one: what it leads to is replaced.
	fmt.Fprintf(w, "  mv -f %s \"$(readlink -m %s)\"\nfi\n", aside, at)
}

func scriptDigest(s State) string {
	if s.File.Data == nil {
		return "-"
	}
	return digest(s.File.Data)
}

// scriptValue gives a key its value by its store's own program.
func scriptValue(w *strings.Builder, v Write) {
	value := v.To.Value
	switch v.Store {
	case change.Dconf:
		if value == nil {
			w.WriteString(change.ShellLine("dconf", "reset", v.Key) + "\n")
		} else {
			w.WriteString(change.ShellLine("dconf", "write", v.Key, change.GVariant(value)) + "\n")
		}
	case change.Xfconf:
		w.WriteString(change.XfconfLine(v.Key, value) + "\n")
	case change.KDE, change.Keeper:
		for _, line := range change.KDELines(v.Store, v.Key, value, v.Label) {
			w.WriteString(line + "\n")
		}
	}
}

// homeWord is a path as a word of the shell.
func homeWord(name string) string {
	if rest, ok := strings.CutPrefix(name, "~/"); ok {
		return `"$HOME"/` + change.ShellWord(rest)
	}
	return change.ShellWord(name)
}

// told is a call as a line of shell. A program of the user's that does not run need not be told, and must not keep what
// comes behind from being done.
func told(s Step) string {
	line := spoken(s.Do)
	if s.Everyone {
		return line
	}
	return line + " || echo " + change.ShellWord(s.By+": its program was not told") + " >&2"
}

// spoken is a call as a line of shell.
func spoken(words []string) string {
	if words[0] == "sh" && len(words) > 2 && words[1] == "-c" {
		return "sh -c " + change.ShellWord(words[2])
	}
	said := make([]string, len(words))
	for i, word := range words {
		said[i] = homeWord(word)
	}
	return strings.Join(said, " ")
}
