package change

import (
	"encoding/binary"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"
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

// WindowsScript is what the steps of a Windows machine save values with, and bring them back; WindowsFile
// is its name in the folder. It is a batch file, since the lines of the steps are entered in PowerShell or
// in the command prompt, which have little in common. A full stop ends what its loops take apart: what
// begins behind a text's end is nothing on Windows, and the text's last character under Wine 10.
const (
	WindowsFile   = "settings.cmd"
	WindowsScript = `@echo off
rem Saves what the registry has before it is set, and brings it back. STEPS.md says when.
setlocal
set "dir=%LOCALAPPDATA%\Leitstand"
if not exist "%dir%" mkdir "%dir%"
goto %~1

:save
rem save NAME KEY: what a key has, once
if exist "%dir%\%~2.reg" goto :eof
reg export "%~3" "%dir%\%~2.reg" >nul 2>nul
if exist "%dir%\%~2.reg" goto :eof
echo Windows Registry Editor Version 5.00>"%dir%\%~2.reg"
echo none>"%dir%\%~2.new"
goto :eof

:letters
rem letters KEY VALUE LETTERS: adds letters to those that a value has
set "had="
for /f "tokens=1,2,*" %%a in ('reg query "%~2" /v "%~3" 2^>nul') do if /i "%%a"=="%~3" set "had=%%c"
set "rest=%~4."
:letter
if "%rest%"=="." goto add
set "one=%rest:~0,1%"
set "rest=%rest:~1%"
if not defined had goto append
call set "without=%%had:%one%=%%"
if not "%without%"=="%had%" goto letter
:append
set "had=%had%%one%"
goto letter
:add
reg add "%~2" /v "%~3" /t REG_SZ /d "%had%" /f >nul
goto :eof

:scancodes
rem scancodes KEY VALUE PAIRS: puts pairs of scan codes before those of other keys that a value has
set "had="
for /f "tokens=1-4" %%a in ('reg query "%~2" /v "%~3" 2^>nul') do if /i "%%a %%b"=="%~3" set "had=%%d"
set "ours=%~4."
set "all=%~4"
set "sources=."
set /a count=1
:own
if "%ours%"=="." goto theirs
set "sources=%sources%%ours:~4,4%."
set "ours=%ours:~8%"
set /a count+=1
goto own
:theirs
if defined had set "had=%had:~24%."
:their
if not defined had goto write
set "pair=%had:~0,8%"
if not "%pair:.=%"=="%pair%" goto write
set "had=%had:~8%"
if "%pair%"=="00000000" goto their
set "source=%pair:~4,4%"
call set "without=%%sources:.%source%.=%%"
if not "%without%"=="%sources%" goto their
set "all=%all%%pair%"
set /a count+=1
goto their
:write
set "digits=0123456789ABCDEF"
set /a high=count/16
set /a low=count-high*16
call set "high=%%digits:~%high%,1%%"
call set "low=%%digits:~%low%,1%%"
reg add "%~2" /v "%~3" /t REG_BINARY /d 0000000000000000%high%%low%000000%all%00000000 /f >nul
goto :eof

:drop
rem drop NAME KEY VALUE: takes our value out, where it was saved what was there
if exist "%dir%\%~2.reg" reg delete "%~3" /v "%~4" /f >nul 2>nul
goto :eof

:back
rem back NAME KEY: what was saved; a key that was not there goes again, if nobody else has put anything in it
if not exist "%dir%\%~2.reg" goto :eof
reg import "%dir%\%~2.reg"
del "%dir%\%~2.reg"
if not exist "%dir%\%~2.new" goto :eof
del "%dir%\%~2.new"
set "filled="
for /f "delims=" %%a in ('reg query "%~3" 2^>nul') do if /i not "%%a"=="%~3" set "filled=yes"
if not defined filled reg delete "%~3" /f >nul 2>nul
goto :eof
`
)

// registry imports the file of values. What their keys had is exported first, once; to take it
// back our values are deleted and the others imported.
func registry(group []Change) (do, undo []string) {
	in := group[0].Note().In
	saved := map[string]string{} // by registry key
	var back, merged []string
	const script = `.\` + WindowsFile
	plain := false
	for _, c := range group {
		c := c.(Setting)
		of, name, _ := strings.Cut(c.Key, ":")
		if saved[of] == "" {
			name := strings.ReplaceAll(strings.TrimSuffix(in, "/leitstand.reg"), "/", "-")
			saved[of] = fmt.Sprintf("%s-%d", strings.TrimSuffix(name, ".reg"), len(saved)+1)
			do = append(do, fmt.Sprintf(`%s save %s "%s"`, script, saved[of], of))
			back = append(back, fmt.Sprintf(`%s back %s "%s"`, script, saved[of], of))
		}
		if plain = plain || c.Merged == ""; c.Merged != "" {
			to := fmt.Sprint(c.To)
			if pairs, ok := c.To.(Bytes); ok {
				to = fmt.Sprintf("%X", string(pairs[12:len(pairs)-4]))
			}
			merged = append(merged, fmt.Sprintf(`%s %s "%s" "%s" %s`, script, c.Merged, of, name, to))
		}
		undo = append(undo, fmt.Sprintf(`%s drop %s "%s" "%s"`, script, saved[of], of, name))
	}
	if plain {
		do = append(do, "reg import "+strings.ReplaceAll(in, "/", `\`))
	}
	return append(do, merged...), append(undo, back...)
}

// filesOfWindows copies files into their folders, the whole of each folder of ours. The command prompt is
// asked, whoever reads the line: PowerShell knows no %VARIABLE%.
func filesOfWindows(group []Change) (do, undo []string) {
	seen := map[string]bool{}
	for _, c := range group {
		c := c.(File)
		undo = append(undo, `cmd /c del "`+c.Path+`"`)
		dir := c.Path[:strings.LastIndex(c.Path, `\`)]
		if line := `cmd /c xcopy /i /y ` + strings.ReplaceAll(path.Dir(c.In), "/", `\`) + ` "` + dir + `"`; !seen[line] {
			do = append(do, line)
			seen[line] = true
		}
	}
	return do, undo
}

// with is a value beside the one that is there.
func (m Merging) with(had, to Value) Value {
	switch was := had.(type) {
	case Text:
		of, ok := to.(Text)
		if m != Letters || !ok {
			return to
		}
		return was + Text(strings.Map(func(r rune) rune {
			if strings.ContainsRune(strings.ToUpper(string(was)), unicode.ToUpper(r)) {
				return -1
			}
			return r
		}, string(of)))
	case Bytes:
		of, ok := to.(Bytes)
		if m != Scancodes || !ok || len(was) < 16 || len(was)%4 != 0 {
			return to
		}
		pairs := string(of[12 : len(of)-4])
		for i := 12; i+4 < len(was); i += 4 {
			if !slices.Contains(sources(pairs), string(was[i+2:i+4])) {
				pairs += string(was[i : i+4])
			}
		}
		head := binary.LittleEndian.AppendUint32(make([]byte, 8), uint32(len(pairs)/4+1))
		return Bytes(string(head) + pairs + "\x00\x00\x00\x00")
	default: // there is nothing to keep
		return to
	}
}

// sources are the scan codes of the keys of pairs.
func sources(pairs string) (list []string) {
	for i := 0; i+4 <= len(pairs); i += 4 {
		list = append(list, pairs[i+2:i+4])
	}
	return list
}
