package layout

import (
	"strconv"
	"strings"
)

// Roles of a partition.
const (
	System   = "system"
	Boot     = "boot"
	Recovery = "recovery"
	Reserved = "reserved"
	Data     = "data"
	Swap     = "swap"
)

// Schemes of a partition table.
const (
	GPT = "gpt"
	MBR = "mbr"
)

// guids are the roles of GPT partition types (UEFI specification 2.10, section 5.3.3, and the
// registries of the systems that use them). What is not among them holds data.
var guids = map[string]string{
	"c12a7328-f81f-11d2-ba4b-00a0c93ec93b": Boot,     // EFI system partition
	"21686148-6449-6e6f-744e-656564454649": Boot,     // BIOS boot
	"bc13c2ff-59e6-4262-a352-b275fd6f7172": Boot,     // extended boot loader
	"e3c9e316-0b5c-4db8-817d-f92df00215ae": Reserved, // reserved by the system
	"de94bba4-06d1-4d22-a16a-bfd50179d6ac": Recovery, // recovery environment
	"426f6f74-0000-11aa-aa11-00306543ecac": Recovery, // recovery of another system
	"0657fd6d-a4ab-43c4-84e5-0933c84b4f4f": Swap,
	"4f68bce3-e8cd-4db1-96e7-fbcaf984b709": System, // root, 64-bit
	"44479540-f297-41b2-9af7-d131d5f0458a": System, // root, 32-bit
	"b921b045-1df0-41c3-af44-4c6f280d3fae": System, // root, 64-bit ARM
}

// typeOfData is the GPT type of a partition of which nothing is known.
const typeOfData = "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7"

// bytes of MBR partition types with a role of their own. What is not among them holds data.
var mbrKinds = map[byte]string{0xef: Boot, 0x12: Recovery, 0x27: Recovery, 0xde: Recovery, 0x82: Swap}

// extended are the MBR types that hold other partitions.
func extended(kind byte) bool { return kind == 0x05 || kind == 0x0f || kind == 0x85 }

// mbrKind reads an MBR type as tools write it: 7, 07, 0x7.
func mbrKind(text string) (byte, bool) {
	n, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(strings.TrimSpace(text)), "0x"), 16, 8)
	return byte(n), err == nil && n > 0
}

// guid reads a GPT type as tools write it.
func guid(text string) (string, bool) {
	s := strings.ToLower(strings.Trim(strings.TrimSpace(text), "{}"))
	if len(s) != 36 {
		return "", false
	}
	for i, r := range s {
		if dash := i == 8 || i == 13 || i == 18 || i == 23; dash != (r == '-') || !dash &&
			!strings.ContainsRune("0123456789abcdef", r) {
			return "", false
		}
	}
	return s, true
}

// small is the size up to which the first partition of an MBR drive counts as its boot partition, bytes.
const small = 1 << 30

// roleOf is the role of a partition by its type alone; "" if the type doesn't tell.
func roleOf(text string) string {
	if g, ok := guid(text); ok {
		if r := guids[g]; r != "" {
			return r
		}
		return Data
	}
	if k, ok := mbrKind(text); ok {
		if r := mbrKinds[k]; r != "" {
			return r
		}
		return Data
	}
	return ""
}
