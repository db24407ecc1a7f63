package store

import (
	"errors"
	"strings"
	"unicode"

	"github.com/mtibben/confusables"
	"golang.org/x/text/secure/precis"
	"golang.org/x/text/unicode/norm"
)

// ErrNameTaken is the error of a name that somebody else has, or one that looks like it.
var ErrNameTaken = errors.New("somebody else is called that, or looks so in print")

// ErrName is the error of a name with signs nobody sees.
var ErrName = errors.New("a name has letters, and no signs that nobody sees")

// Name is a name as it is kept: in Unicode's NFKC, with single spaces. Names with
// control signs, signs of no width or of another direction, or without a letter are
// ErrName.
func Name(s string) (string, error) {
	s = strings.Join(strings.Fields(norm.NFKC.String(s)), " ")
	letter := false
	for _, r := range s {
		if unicode.In(r, unicode.Cc, unicode.Cf, unicode.Co, unicode.Cs, unicode.Zl, unicode.Zp, unicode.Variation_Selector, unicode.Other_Default_Ignorable_Code_Point) {
			return "", ErrName
		}
		letter = letter || unicode.IsLetter(r)
	}
	if !letter {
		return "", ErrName
	}
	return s, nil
}

// nameKey is what names are compared by: RFC 8266 (nicknames: NFKC, case, spaces) and
// then the skeleton of UTS #39, so that names that look alike are one.
func nameKey(s string) string {
	key, err := precis.Nickname.CompareKey(s)
	if err != nil {
		key = strings.ToLower(norm.NFKC.String(s))
	}
	return strings.ToLower(confusables.Skeleton(strings.ToLower(confusables.Skeleton(key))))
}

// holdName holds a name against those of everybody else, with people locked.
func (t *tx) holdName(id int64, name string) error {
	all, err := t.People()
	if err != nil {
		return err
	}
	key := nameKey(name)
	for i := range all {
		if all[i].ID != id && nameKey(all[i].Name) == key {
			return ErrNameTaken
		}
	}
	return nil
}
