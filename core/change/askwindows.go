package change

import (
	"fmt"
	"path"
	"strings"
)

// AskingWindows is a batch file that asks Windows, in the machine's folder, whether changes hold there, and says so of each;
// it changes nothing. Its exit code is 1 if one does not hold. What a person does by hand is not asked for.
func AskingWindows(changes []Change) string {
	var w strings.Builder
	w.WriteString(askingWindowsHead)
	for _, c := range changes {
		if c.Note().Shown {
			continue
		}
		switch c := c.(type) {
		case File:
			in, at := strings.ReplaceAll(c.In, "/", `\`), c.Path
			if variable, rest, ok := strings.Cut(strings.TrimPrefix(at, "%"), "%"); ok && c.Path[0] == '%' {
				at = "%" + variable + "%" + inBatch(rest)
			} else {
				at = inBatch(at)
			}
			w.WriteString(batchSet("name", path.Base(c.In)))
			fmt.Fprintf(&w, "fc /b \"%s\" \"%s\" >nul 2>nul\ncall :says\n", inBatch(in), at)
		case Setting:
			if c.Store == Registry {
				w.WriteString(askRegistry(c))
			}
		case Call:
			if c.Holds != "" {
				w.WriteString(batchSet("name", c.In))
				w.WriteString(c.Holds + "\ncall :says\n")
			}
		default: // no other is made on Windows
		}
	}
	w.WriteString(askingWindowsTail)
	return w.String()
}

const askingWindowsHead = `@echo off
rem Asks this Windows whether what was compiled holds here, and says so of each change. Changes nothing.
setlocal disabledelayedexpansion
cd /d "%~dp0"
for /f "tokens=2 delims=:." %%a in ('chcp') do set "page=%%a"
chcp 65001 >nul
set "missing=0"
`

// A value is asked for as reg.exe prints it: its name, its type and its data, with four blanks before each. A full stop ends
// what the loops take apart, as in WindowsScript.
const askingWindowsTail = `chcp %page% >nul 2>nul
exit /b %missing%

:read
set "now="
set "data="
reg query "%key%" /v "%name%" >nul 2>nul
if errorlevel 1 exit /b 0
set /a word=2
for %%a in (%name%) do set /a word+=1
for /f "delims=" %%a in ('reg query "%key%" /v "%name%"') do set "now=%%a"
for /f "tokens=%word%" %%a in ('reg query "%key%" /v "%name%"') do set "data=%%a"
exit /b 0

:value
call :read
setlocal enabledelayedexpansion
set "same=1"
if "!now!"=="    !name!    !want!" set "same=0"
endlocal & set "same=%same%"
goto said

:none
call :read
set "same=0"
if defined now set "same=1"
goto said

:letters
call :read
set "same=1"
if not defined data goto said
set "same=0"
set "rest=%want%."
:each
if "%rest%"=="." goto said
set "one=%rest:~0,1%"
set "rest=%rest:~1%"
call set "without=%%data:%one%=%%"
if "%without%"=="%data%" set "same=1"
goto each

:scancodes
call :read
set "same=1"
if not defined data goto said
set "data=%data:~24%."
set "pairs=."
:split
set "one=%data:~0,8%"
if not "%one:.=%"=="%one%" goto compare
set "pairs=%pairs%%one%."
set "data=%data:~8%"
goto split
:compare
set "same=0"
set "want=%want%."
:one
if "%want%"=="." goto said
set "one=%want:~0,8%"
set "want=%want:~8%"
call set "without=%%pairs:.%one%.=%%"
if "%without%"=="%pairs%" set "same=1"
goto one

:says
set "same=%errorlevel%"
:said
set "word=not there"
if "%same%"=="0" (set "word=holds    ") else set "missing=1"
setlocal enabledelayedexpansion
echo !word!  !name!
endlocal
exit /b 0
`

func askRegistry(c Setting) string {
	key, name, _ := strings.Cut(c.Key, ":")
	verb, want := "value", ""
	switch to := c.To.(type) {
	case Text:
		want = "REG_SZ    " + string(to)
	case Unsigned:
		want = fmt.Sprintf("REG_DWORD    0x%x", uint(to))
	case Bytes:
		want = fmt.Sprintf("REG_BINARY    %X", string(to))
	default:
		verb = "none"
	}
	switch c.Merged {
	case Letters:
		verb, want = "letters", fmt.Sprint(c.To)
	case Scancodes:
		to := c.To.(Bytes)
		verb, want = "scancodes", fmt.Sprintf("%X", string(to[12:len(to)-4]))
	}
	return batchSet("key", key) + batchSet("name", name) + batchSet("want", want) + "call :" + verb + "\n"
}

// batchSet is a line of a batch file that sets a variable to a text. Command separators mean themselves between quotes, and
// with a caret before them elsewhere.
func batchSet(name, to string) string {
	var w strings.Builder
	quoted := true
	for _, r := range inBatch(to) {
		if r == '"' {
			quoted = !quoted
		} else if !quoted && strings.ContainsRune("&|<>^", r) {
			w.WriteByte('^')
		}
		w.WriteRune(r)
	}
	return "set \"" + name + "=" + w.String() + "\"\n"
}

// inBatch is a text in a batch file, where a percent sign begins the name of a variable.
func inBatch(s string) string { return strings.ReplaceAll(s, "%", "%%") }
