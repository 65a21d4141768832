package cli

import (
	"os"
	"path/filepath"

	"leitstand/core/install"
	"leitstand/core/report"
)

func (a *app) runStatus(f placing) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	said, err := a.statusOf(here)
	if err != nil {
		return err
	}
	said.Mapping = shown(said.Mapping)
	if err := a.say(said, func() { a.text.Status(said) }); err != nil {
		return err
	}
	if len(said.Drift) > 0 {
		return exit{exitErrors}
	}
	return nil
}

func (a *app) statusOf(here *at) (report.Status, error) {
	plan, err := here.Drifted()
	if err != nil {
		return report.Status{}, err
	}
	b := a.buildOf(here)
	edited := b != nil && len(here.Journal.Without) == 0 && len(here.Journal.Items) > 0 &&
		here.Journal.Differs(install.Items(b))
	differ, unread := presses(here, b, plan, here.Journal.Items, nil)
	return report.StatusOf(here.Journal, plan, differ, unread, edited), nil
}

// shown is a path as a user calls it: from the folder at hand, if it is below that.
func shown(path string) string {
	dir, err := os.Getwd()
	if err != nil {
		return path
	}
	if rest, err := filepath.Rel(dir, path); err == nil && filepath.IsLocal(rest) {
		return rest
	}
	return path
}
