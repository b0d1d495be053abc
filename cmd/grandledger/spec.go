package main

import (
	"bytes"
	"io"
	"os"

	"go.yaml.in/yaml/v3"

	"grandledger/core/problem"
)

// readSpec reads a specification as --draft-spec writes one, if a file is named. A name it does not know is refused, since what is misspelt would do nothing.
func readSpec(name string, spec any) error {
	if name == "" {
		return nil
	}
	body, err := os.ReadFile(name)
	if err != nil {
		return &problem.Problem{What: "the specification cannot be read: " + reason(err), File: name}
	}
	d := yaml.NewDecoder(bytes.NewReader(body))
	d.KnownFields(true)
	if err := d.Decode(spec); err != nil {
		return &problem.Problem{What: "it is no such specification: " + err.Error(), File: name, Remedy: "Make one with --draft-spec"}
	}
	return nil
}

// writeSpec writes what was decided, to be changed and read again, if a file is named.
func writeSpec(name string, spec any) error {
	if name == "" {
		return nil
	}
	return write(name, func(w io.Writer) error {
		body, err := yaml.Marshal(spec)
		if err == nil {
			_, err = w.Write(body)
		}
		return err
	})
}
