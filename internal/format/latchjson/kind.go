package latchjson

import (
	"bytes"
	"encoding/json"
	"strings"
	"unicode/utf8"
)

// KindOf says what a file seems to be that was taken for a latch file, as a sentence; empty
// where nothing is known of it.
func KindOf(b []byte) string {
	if kind := Foreign(b); kind != "" {
		return kind
	}
	var probe struct {
		Format string          `json:"format"`
		Code   string          `json:"code"`
		Shafts json.RawMessage `json:"shafts"`
		Steps  json.RawMessage `json:"steps"`
	}
	switch {
	case json.NewDecoder(bytes.NewReader(b)).Decode(&probe) != nil:
	case probe.Format == "" && probe.Code != "" && probe.Shafts != nil:
		return "This is an engine sheet, not a procedure. It is read in under Engines."
	case probe.Format == "" && probe.Steps == nil:
		return "This is JSON, but no latch file: it does not say format."
	}
	return ""
}

// Foreign says what a file seems to be that is neither a latch file nor an engine sheet;
// empty where it may be one.
func Foreign(b []byte) string {
	t := bytes.TrimSpace(bytes.TrimPrefix(b, []byte("\ufeff")))
	begins := func(s string) bool { return bytes.HasPrefix(t, []byte(s)) }
	switch {
	case len(t) == 0:
		return "This file is empty."
	case begins("%PDF"):
		return "This is a PDF. A latch file is what Export writes; a page that was written elsewhere is read line by line in an empty procedure."
	case begins("PK\x03\x04") && bytes.Contains(b, []byte("word/")):
		return "This is a word processor’s document. Copy its lines into an empty procedure: each is read as it is pasted."
	case begins("PK\x03\x04") && bytes.Contains(b, []byte("database.dump")):
		return "This is a backup of a house. It is read in with inklatch restore."
	case begins("PK\x03\x04"):
		return "This is a packed folder (zip). Unpack it, and read the latch file in it in."
	case begins("\x89PNG"), begins("\xff\xd8\xff"), begins("GIF8"):
		return "This is a picture. A latch file is what Export writes."
	case begins("{\\rtf"), begins("\xd0\xcf\x11\xe0"):
		return "This is a word processor’s document. Copy its lines into an empty procedure: each is read as it is pasted."
	case begins("<"):
		return "This is a web page, a drawing or other XML. A latch file is what Export writes."
	case !begins("{") && !begins("[") && utf8.Valid(t):
		return "This is a text. Copy its lines into an empty procedure: each is read as it is pasted."
	}
	var probe struct {
		Seq    int64  `json:"seq"`
		Hash   string `json:"hash"`
		Open   string `json:"openapi"`
		Schema string `json:"$schema"`
	}
	if json.NewDecoder(bytes.NewReader(t)).Decode(&probe) != nil {
		return ""
	}
	switch {
	case probe.Seq > 0 && probe.Hash != "":
		return "This is an export of the record. It is looked at with inklatch verify --record."
	case probe.Open != "":
		return "This is a description of an interface, not a procedure."
	case strings.Contains(probe.Schema, "json-schema.org"):
		return "This is the schema of latch files, not one of them."
	}
	return ""
}
