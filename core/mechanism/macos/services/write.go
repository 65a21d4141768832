package services

import (
	"crypto/sha256"
	"fmt"
	"strings"

	"howett.net/plist"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

// Write makes the quick actions and their chords.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var bundles, off, chords, gone []change.Change
	for _, b := range list {
		p := b.Plan.(plan)
		files, err := bundle(p)
		if err != nil {
			return mechanism.Output{}, err
		}
		serves := []string{b.Press()}
		for _, f := range files {
			f.Serves = serves
			bundles = append(bundles, f)
		}
		for _, key := range p.off {
			off = append(off, change.Setting{
				About: change.About{Serves: serves, In: "services/com.apple.symbolichotkeys.plist",
					Says:   "Switch off what the system does on these chords. What it was is saved for the way back.",
					Unsays: "Have the system's own shortcuts on these chords as they were."},
				Store: change.Defaults, Key: key, To: change.PropertyList(map[string]any{"enabled": false}),
			})
		}
		chords = append(chords, change.Setting{
			About: change.About{Serves: serves, In: "services/pbs.plist",
				Says:   "Give the quick actions their chords. What the chords were is saved for the way back.",
				Unsays: "Take the quick actions' chords away."},
			Store: change.Defaults, Key: "pbs:NSServicesStatus:(null) - " + p.name + " - runWorkflowAsService",
			To: change.PropertyList(map[string]any{
				"key_equivalent": p.equivalent, "enabled_services_menu": true, "enabled_context_menu": false,
				"presentation_modes": map[string]any{"ServicesMenu": true, "ContextMenu": false},
			}),
		})
		folder := "~/Library/Services/" + p.name + ".workflow"
		gone = append(
			gone,
			change.Call{About: change.About{Serves: serves, Unsays: "Delete their folders."}, InTurn: true,
				Undo: []string{"sh", "-c", "rmdir " + folder + "/Contents " + folder + " 2> /dev/null || true"}},
		)
	}
	changes := append(append(append(gone, bundles...), off...), chords...)
	return mechanism.Changed(append(changes, tell(mechanism.Presses(list)))), nil
}

// tell has the system look for quick actions again.
func tell(serves []string) change.Change {
	words := []string{"/System/Library/CoreServices/pbs", "-flush"}
	return change.Call{About: change.About{
		Serves: serves,
		Says:   "Tell the system of the quick actions; start programs anew that are to have them.",
		Unsays: "Tell the system that they are gone.",
	}, Do: words, Undo: words}
}

// bundle is the files of a quick action.
func bundle(p plan) ([]change.File, error) {
	about := func(name string) change.About {
		return change.About{
			In:     "services/" + p.name + ".workflow/Contents/" + name,
			Says:   "Copy the quick actions. They are shown in the menu Services of each program.",
			Unsays: "Delete the quick actions.",
		}
	}
	var files []change.File
	for _, f := range []struct {
		name string
		of   any
	}{{"Info.plist", info(p)}, {"document.wflow", document(p)}} {
		text, err := plist.MarshalIndent(f.of, plist.XMLFormat, "  ")
		if err != nil {
			return nil, fmt.Errorf("services: %w", err)
		}
		a := about(f.name)
		files = append(files, change.File{About: a, Path: "~/Library/Services/" + strings.TrimPrefix(a.In, "services/"),
			Data: append(text, '\n')})
	}
	return files, nil
}

// info says what the menu shows, and what it does.
func info(p plan) any {
	return map[string]any{"NSServices": []any{map[string]any{
		"NSMenuItem": map[string]any{"default": p.name}, "NSMessage": "runWorkflowAsService",
	}}}
}

// document is a workflow of one action, which runs a line of shell.
func document(p plan) any {
	texts := func() map[string]any {
		return map[string]any{"Container": "List", "Optional": true, "Types": []string{"com.apple.cocoa.string"}}
	}
	action := map[string]any{
		"AMAccepts": texts(), "AMProvides": map[string]any{"Container": "List", "Types": []string{"com.apple.cocoa.string"}},
		"AMActionVersion": "2.0.3", "AMApplication": []string{"Automator"},
		"ActionBundlePath": "/System/Library/Automator/Run Shell Script.action",
		"ActionName":       "Run Shell Script", "BundleIdentifier": "com.apple.RunShellScript", "CFBundleVersion": "2.0.3",
		"Class Name": "RunShellScriptAction",
		"ActionParameters": map[string]any{
			"COMMAND_STRING": p.line, "CheckedForUserDefaultShell": true, "inputMethod": 0, "shell": "/bin/sh", "source": "",
		},
		"InputUUID": identifier(p.name, "input"), "OutputUUID": identifier(p.name, "output"),
		"UUID": identifier(p.name, "action"),
	}
	return map[string]any{
		"AMApplicationVersion": "2.10", "AMDocumentVersion": "2", "connectors": map[string]any{},
		"actions": []any{map[string]any{"action": action, "isViewVisible": true}},
		"workflowMetaData": map[string]any{
			"serviceInputTypeIdentifier":  "com.apple.Automator.nothing",
			"serviceOutputTypeIdentifier": "com.apple.Automator.nothing",
			"workflowTypeIdentifier":      "com.apple.Automator.servicesMenu",
		},
	}
}

// identifier is one of the form of a UUID, the same each time.
func identifier(name, of string) string {
	sum := sha256.Sum256([]byte(name + "\x00" + of))
	sum[6], sum[8] = sum[6]&0x0F|0x80, sum[8]&0x3F|0x80 // version 8, of RFC 9562
	return strings.ToUpper(fmt.Sprintf("%x-%x-%x-%x-%x", sum[:4], sum[4:6], sum[6:8], sum[8:10], sum[10:16]))
}
