package change

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"
	"sync"
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
//
// Each value is saved separately: its type and its data, or that it is absent. A saved value is deleted only after it was
// restored and read back. reg.exe prints in the console's character set, so the script sets that to UTF-8; it keeps an
// export of the key where a question mark may stand for a character that the console cannot show.
const (
	WindowsFile   = "settings.cmd"
	WindowsScript = `@echo off
rem Saves values of the registry before they are set, and brings them back. STEPS.md says when.
setlocal disabledelayedexpansion
for /f "tokens=2 delims=:." %%a in ('chcp') do set "page=%%a"
chcp 65001 >nul
call :do %*
set "failed=%errorlevel%"
chcp %page% >nul 2>nul
exit /b %failed%

:do
set "dir=%LOCALAPPDATA%\Leitstand"
if not exist "%dir%" mkdir "%dir%"
set "name=%~2"
set "key=%~3"
set "bad=0"
goto %~1

:save
rem save NAME KEY VALUE...: what values have, once
del "%dir%\%name%.done" 2>nul
:next
if "%~4"=="" goto saved
call :keep "%~4"
if errorlevel 1 set "bad=1"
shift
goto next
:saved
if %bad%==0 echo saved>"%dir%\%name%.done"
exit /b %bad%

:keep
set "at=%dir%\%name% %~1"
if exist "%at%.value" exit /b 0
if exist "%at%.none" exit /b 0
reg query "%key%" /v "%~1" >"%at%.part" 2>nul
if not errorlevel 1 goto kept
del "%at%.part" 2>nul
reg query "%key%" >nul 2>nul
if errorlevel 1 (echo no key>"%at%.none") else (echo no value>"%at%.none")
if exist "%at%.none" exit /b 0
goto unkept
:kept
ren "%at%.part" "%name% %~1.value"
set "was="
for /f "usebackq delims=" %%a in ("%at%.value") do set "was=%%a"
rem What the console cannot show it may show as ?, so what the whole key has is kept beside it.
if defined was reg export "%key%" "%at%.reg" /y >nul 2>nul
if defined was if exist "%at%.reg" exit /b 0
:unkept
echo What %~1 has could not be saved, so nothing is set: %key%>&2
exit /b 1

:import
rem import FILE NAME...: the values of a file, after all that NAMEs have was saved
if "%~3"=="" goto load
if not exist "%dir%\%~3.done" goto unsaved
shift /3
goto import
:load
reg import "%~2"
if not errorlevel 1 exit /b 0
echo Nothing was set. Is this window an administrator's?>&2
exit /b 1
:unsaved
echo Nothing is set, since what was there before is not saved: %~3>&2
exit /b 1

:back
rem back NAME KEY VALUE...: what was saved; a key that was not there goes again, if nobody else has put anything in it
if "%~4"=="" goto returned
call :return "%~4"
if errorlevel 1 set "bad=1"
shift
goto back
:returned
if %bad%==0 del "%dir%\%name%.done" 2>nul
exit /b %bad%

:return
set "at=%dir%\%name% %~1"
if exist "%at%.none" goto remove
if not exist "%at%.value" exit /b 0
set "was="
for /f "usebackq delims=" %%a in ("%at%.value") do set "was=%%a"
set /a word=1
for %%a in (%~1) do set /a word+=1
for /f "usebackq tokens=%word%,*" %%a in ("%at%.value") do (
  set "type=%%a"
  set "data=%%b"
)
set "attempt=1"
:attempt
rem a quote is written with a backslash before it, where without one it is not what it was
setlocal enabledelayedexpansion
if %attempt%==2 set "data=!data:"=\"!"
if defined data if "!data:~-1!"=="\" set "data=!data!\"
reg add "%key%" /v "%~1" /t %type% /f >nul 2>nul <nul /d "!data!"
endlocal
reg query "%key%" /v "%~1" >"%at%.part" 2>nul
set "now="
for /f "usebackq delims=" %%a in ("%at%.part") do set "now=%%a"
del "%at%.part" 2>nul
setlocal enabledelayedexpansion
set "same=no"
if "!now!"=="!was!" set "same=yes"
endlocal & set "same=%same%"
set /a attempt+=1
if %same%==no if %attempt%==2 goto attempt
if %same%==no goto stays
findstr /c:"?" "%at%.value" >nul 2>nul
if errorlevel 1 del "%at%.reg"
del "%at%.value"
exit /b 0
:remove
reg delete "%key%" /v "%~1" /f >nul 2>nul
reg query "%key%" /v "%~1" >nul 2>nul
if not errorlevel 1 goto stays
set "made="
for /f "usebackq delims=" %%a in ("%at%.none") do set "made=%%a"
del "%at%.none"
if not "%made%"=="no key" exit /b 0
set "filled="
for /f "delims=" %%a in ('reg query "%key%" 2^>nul') do if /i not "%%a"=="%key%" set "filled=yes"
if not defined filled reg delete "%key%" /f >nul 2>nul
exit /b 0
:stays
echo %~1 is not as it was, so what was saved is kept in %dir%. Is this window an administrator's? %key%>&2
exit /b 1

:copy
rem copy FOLDER VARIABLE PATH: the files of a folder of this one, below the folder that a variable names
call set "to=%%%~3%%\%~4"
xcopy /i /y "%~2" "%to%" >nul
exit /b %errorlevel%

:delete
rem delete VARIABLE PATH: a file of ours below the folder that a variable names
call set "at=%%%~2%%\%~3"
if exist "%at%" del "%at%"
if not exist "%at%" exit /b 0
echo It could not be deleted: %at%>&2
exit /b 1

:letters
rem letters NAME KEY VALUE LETTERS: adds letters to those that a value has
if not exist "%dir%\%name%.done" goto mergeless
set "had="
for /f "tokens=1,2,*" %%a in ('reg query "%key%" /v "%~4" 2^>nul') do if /i "%%a"=="%~4" set "had=%%c"
set "rest=%~5."
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
reg add "%key%" /v "%~4" /t REG_SZ /d "%had%" /f >nul
exit /b %errorlevel%

:scancodes
rem scancodes NAME KEY VALUE PAIRS: puts pairs of scan codes before those of other keys that a value has
if not exist "%dir%\%name%.done" goto mergeless
set "had="
for /f "tokens=1-4" %%a in ('reg query "%key%" /v "%~4" 2^>nul') do if /i "%%a %%b"=="%~4" set "had=%%d"
set "ours=%~5."
set "all=%~5"
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
reg add "%key%" /v "%~4" /t REG_BINARY /d 0000000000000000%high%%low%000000%all%00000000 /f >nul
exit /b %errorlevel%

:mergeless
echo Nothing is set, since what was there before is not saved: %name%>&2
exit /b 1
`
)

// registry saves what each value has, imports the file of values, and restores what was saved.
func registry(group []Change) (do, undo []string) {
	in := group[0].Note().In
	label := strings.ReplaceAll(strings.TrimSuffix(in, "/leitstand.reg"), "/", "-")
	label = strings.TrimSuffix(label, ".reg")
	var of []string                   // registry keys, in their order
	values := map[string][][]string{} // words of the values of each: a name, and what is merged into it
	plain := false
	for _, c := range group {
		c := c.(Setting)
		key, name, _ := strings.Cut(c.Key, ":")
		if values[key] == nil {
			of = append(of, key)
		}
		value := []string{name}
		if plain = plain || c.Merged == ""; c.Merged != "" {
			to := fmt.Sprint(c.To)
			if pairs, ok := c.To.(Bytes); ok {
				to = fmt.Sprintf("%X", string(pairs[12:len(pairs)-4]))
			}
			value = append(value, string(c.Merged), to)
		}
		values[key] = append(values[key], value)
	}
	load := []string{"import", strings.ReplaceAll(in, "/", `\`)}
	var merged []string
	for _, key := range of {
		sum := sha256.Sum256([]byte(strings.ToLower(key)))
		name := fmt.Sprintf("%s-%x", label, sum[:3])
		names := []string{name, key}
		for _, v := range values[key] {
			if names = append(names, v[0]); len(v) > 1 {
				merged = append(merged, batchLine(v[1], name, key, v[0], v[2]))
			}
		}
		do = append(do, batchLine("save", names...))
		undo = append(undo, batchLine("back", names...))
		load = append(load, name)
	}
	if plain {
		do = append(do, batchLine(load[0], load[1:]...))
	}
	return append(do, merged...), undo
}

// batchLine is a line that calls WindowsScript. PowerShell and the command prompt take a word in double quotes as it is,
// where it has none of the characters that either of them changes: what is none of those is refused where a mapping is read.
func batchLine(verb string, words ...string) string {
	line := `.\` + WindowsFile + " " + verb
	for _, w := range words {
		if !plainWord().MatchString(w) {
			w = `"` + w + `"`
		}
		line += " " + w
	}
	return line
}

// plainWord is a word that neither PowerShell nor the command prompt changes.
var plainWord = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^[A-Za-z0-9_.\\-]+$`) })

// filesOfWindows copies files into their folders, the whole of each folder of ours. The script knows what the variables are
// that name them: PowerShell would take the quotes off their names, and a user's folder may have a blank.
func filesOfWindows(group []Change) (do, undo []string) {
	seen := map[string]bool{}
	for _, c := range group {
		c := c.(File)
		variable, at, _ := strings.Cut(strings.TrimPrefix(c.Path, "%"), `%\`)
		undo = append(undo, batchLine("delete", variable, at))
		line := batchLine("copy", strings.ReplaceAll(path.Dir(c.In), "/", `\`), variable, at[:strings.LastIndex(at, `\`)])
		if !seen[line] {
			do = append(do, line)
			seen[line] = true
		}
	}
	slices.Reverse(undo)
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
