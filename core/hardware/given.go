package hardware

import "strings"

// placeholders are what a board's maker leaves in the firmware where it should say what the computer is.
var placeholders = map[string]bool{
	"to be filled by o.e.m.": true, "to be filled by oem": true, "default string": true, "system product name": true, "system manufacturer": true,
	"system version": true, "not applicable": true, "not specified": true, "unknown": true, "none": true, "n/a": true, "o.e.m.": true, "oem": true, "invalid": true, "empty": true,
	"type1productconfigid": true, "product name": true, "undefined": true,
}

// Given is what the firmware says, without blanks around it, or "" where its maker left it at a placeholder.
func Given(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if placeholders[strings.ToLower(s)] || strings.Trim(s, "0xX.-_ ") == "" {
		return ""
	}
	return s
}
