package document

import (
	"encoding/json"
	"fmt"
)

// StoreValues writes the values of a message as they are kept: words and whole numbers as such,
// messages by their ids. A value of another kind is an error.
func StoreValues(values Values) (json.RawMessage, error) {
	out := map[string]any{}
	for name, v := range values {
		stored, err := stored(v)
		if err != nil {
			return nil, err
		}
		out[name] = stored
	}
	return json.Marshal(out)
}

func stored(v Value) (any, error) {
	switch v.Kind {
	case Words:
		return v.Text, nil
	case Count:
		return int64(v.Number), nil
	case Said:
		raw, err := StoreValues(v.Message.Values)
		return map[string]any{"say": v.Message.ID, "values": raw}, err
	}
	return nil, fmt.Errorf("document: a value of the kind %q is not kept", v.Kind)
}

// ReadValues reads what StoreValues wrote.
func ReadValues(raw []byte) (Values, error) {
	var in map[string]json.RawMessage
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, fmt.Errorf("document: %w", err)
	}
	out := Values{}
	for name, one := range in {
		var text string
		var n int64
		var said struct {
			Say    string          `json:"say"`
			Values json.RawMessage `json:"values"`
		}
		switch {
		case json.Unmarshal(one, &text) == nil:
			out[name] = Text(text)
		case json.Unmarshal(one, &n) == nil:
			out[name] = N(n)
		case json.Unmarshal(one, &said) == nil && said.Say != "":
			values, err := ReadValues(said.Values)
			if err != nil {
				return nil, err
			}
			out[name] = Value{Kind: Said, Message: &Message{said.Say, values}}
		default:
			return nil, fmt.Errorf("document: the value %q is not readable", name)
		}
	}
	return out, nil
}
