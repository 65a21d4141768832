package change

import (
	"encoding/binary"
	"fmt"
	"path"
	"strings"
	"unicode/utf16"
)

// A key of Registry is a registry key and the name of a value in it, with a colon between. The
// file that holds one is UTF-16LE with lines that end in CR LF. (Microsoft: "How to add, modify,
// or delete registry subkeys and values by using a .reg file".)

// registryHead is the first line of a registry file.
const registryHead = "Windows Registry Editor Version 5.00"

// registryFile spells values as the registry's own editor exports them. Labels are what is said
// of each in comments, a line each.
func registryFile(keys []key, labels map[string]string, s Store) ([]byte, error) {
	var w strings.Builder
	w.WriteString(registryHead + "\n")
	in := ""
	for _, k := range keys {
		v, err := s.Get(k.store, k.name)
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		if words := labels[k.name]; words != "" {
			w.WriteString("\n; " + strings.ReplaceAll(words, "\n", "\n; ") + "\n")
		}
		of, name, _ := strings.Cut(k.name, ":")
		if of != in {
			w.WriteString("\n[" + of + "]\n")
			in = of
		}
		w.WriteString(registryValue(name, v) + "\n")
	}
	return utf16File(w.String()), nil
}

func utf16File(text string) []byte {
	data := []byte{0xFF, 0xFE}
	for _, u := range utf16.Encode([]rune(strings.ReplaceAll(text, "\n", "\r\n"))) {
		data = binary.LittleEndian.AppendUint16(data, u)
	}
	return data
}

// registryValue is a line of a registry file; one of bytes is broken as the editor does it.
func registryValue(name string, v Value) string {
	head := `"` + registryEscape.Replace(name) + `"=`
	switch v := v.(type) {
	case Text:
		return head + `"` + registryEscape.Replace(string(v)) + `"`
	case Unsigned:
		return fmt.Sprintf("%sdword:%08x", head, uint(v))
	case Bytes:
		var b strings.Builder
		b.WriteString(head + "hex:")
		width := b.Len()
		for i, c := range []byte(v) {
			if i > 0 {
				b.WriteByte(',')
				width++
			}
			if width+3 > 79 {
				b.WriteString("\\\n  ")
				width = 2
			}
			fmt.Fprintf(&b, "%02x", c)
			width += 2
		}
		return b.String()
	default:
		panic(fmt.Sprintf("%T is no value of the registry", v))
	}
}

var registryEscape = strings.NewReplacer(`\`, `\\`, `"`, `\"`)

// registry imports the file of values. What their keys had is exported first, once; to take it
// back our values are deleted and the others imported.
func registry(group []Change) (do, undo []string) {
	const folder = `%LOCALAPPDATA%\Leitstand`
	in := group[0].Note().In
	do = []string{`if not exist "` + folder + `" mkdir "` + folder + `"`}
	saved := map[string]string{} // by registry key
	var back []string
	for _, c := range group {
		of, name, _ := strings.Cut(c.(Setting).Key, ":")
		if saved[of] == "" {
			saved[of] = fmt.Sprintf(`"%s\%s.%d.reg"`, folder, strings.TrimSuffix(path.Base(in), ".reg"), len(saved)+1)
			do = append(
				do,
				"if not exist "+saved[of]+` reg export "`+of+`" `+saved[of],
				"if not exist "+saved[of]+" echo "+registryHead+"> "+saved[of],
			)
			back = append(back, "if exist "+saved[of]+" reg import "+saved[of], "if exist "+saved[of]+" del "+saved[of])
		}
		undo = append(undo, "if exist "+saved[of]+` reg delete "`+of+`" /v "`+name+`" /f`)
	}
	return append(do, "reg import "+strings.ReplaceAll(in, "/", `\`)), append(undo, back...)
}

// filesOfWindows copies files into their folders, the whole of each folder of ours.
func filesOfWindows(group []Change) (do, undo []string) {
	seen := map[string]bool{}
	for _, c := range group {
		c := c.(File)
		undo = append(undo, `del "`+c.Path+`"`)
		dir := c.Path[:strings.LastIndex(c.Path, `\`)]
		if line := `xcopy /i /y ` + strings.ReplaceAll(path.Dir(c.In), "/", `\`) + ` "` + dir + `"`; !seen[line] {
			do = append(do, line)
			seen[line] = true
		}
	}
	return do, undo
}
