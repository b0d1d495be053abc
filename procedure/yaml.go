package procedure

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"go.yaml.in/yaml/v3"
)

// maxNested is how deep YAML may be nested.
const maxNested = 100

// fromYAML gives YAML as JSON. Only what YAML 1.2 takes for numbers, true, false and null is that: a
// column may be called no, and a date is a text. Aliases, which can make a small text a huge one,
// are refused, and so are several documents.
func fromYAML(text []byte) ([]byte, error) {
	d := yaml.NewDecoder(bytes.NewReader(text))
	var doc, more yaml.Node
	if err := d.Decode(&doc); err != nil {
		return nil, err
	}
	if err := d.Decode(&more); err != io.EOF {
		return nil, errors.New("something stands after the end of the procedure")
	}
	v, err := asJSON(&doc, 0)
	if err != nil {
		return nil, err
	}
	return json.Marshal(v)
}

func asJSON(n *yaml.Node, depth int) (any, error) {
	if depth > maxNested {
		return nil, fmt.Errorf("line %d is nested more than %d deep", n.Line, maxNested)
	}
	switch n.Kind {
	case yaml.DocumentNode:
		return asJSON(n.Content[0], depth+1)
	case yaml.MappingNode:
		out := map[string]any{}
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i]
			if _, twice := out[key.Value]; twice || key.Kind != yaml.ScalarNode {
				return nil, fmt.Errorf("line %d: the key %q comes twice, or is no text", key.Line, key.Value)
			}
			v, err := asJSON(n.Content[i+1], depth+1)
			if err != nil {
				return nil, err
			}
			out[key.Value] = v
		}
		return out, nil
	case yaml.SequenceNode:
		out := make([]any, len(n.Content))
		for i, item := range n.Content {
			v, err := asJSON(item, depth+1)
			if err != nil {
				return nil, err
			}
			out[i] = v
		}
		return out, nil
	case yaml.AliasNode:
		return nil, fmt.Errorf("line %d: aliases are not read", n.Line)
	}
	switch n.ShortTag() {
	case "!!null":
		return nil, nil
	case "!!bool", "!!int", "!!float":
		if json.Valid([]byte(n.Value)) {
			return json.RawMessage(n.Value), nil
		}
	}
	return n.Value, nil
}

// toYAML writes JSON as YAML.
func toYAML(w io.Writer, raw []byte) error {
	var v any
	if err := json.Unmarshal(raw, &v); err != nil {
		return err
	}
	e := yaml.NewEncoder(w)
	e.SetIndent(2)
	if err := e.Encode(v); err != nil {
		return err
	}
	return e.Close()
}
