package main

import (
	"bytes"
	"encoding/binary"
	"math"
)

// frame is an encoded picture at its time.
type frame struct {
	ms   int
	key  bool
	data []byte
}

// element is one element of EBML (RFC 8794): its id, its length, its content.
func element(id uint32, content ...[]byte) []byte {
	body := bytes.Join(content, nil)
	var b []byte
	for shift := 24; shift >= 0; shift -= 8 {
		if v := byte(id >> shift); v != 0 || len(b) > 0 {
			b = append(b, v)
		}
	}
	length := make([]byte, 8)
	binary.BigEndian.PutUint64(length, uint64(len(body)))
	length[0] = 0x01 // the length has eight bytes
	return append(append(b, length...), body...)
}

func unsigned(id uint32, v uint64) []byte {
	b := make([]byte, 8)
	binary.BigEndian.PutUint64(b, v)
	return element(id, b)
}

func text(id uint32, s string) []byte { return element(id, []byte(s)) }

func float(id uint32, v float64) []byte {
	b := make([]byte, 8)
	binary.BigEndian.PutUint64(b, math.Float64bits(v))
	return element(id, b)
}

// webm puts VP8 frames into a WebM (a Matroska of one track with times in ms),
// with a cluster at every key frame and cues to them, so that it can be sought.
func webm(width, height uint64, frames []frame) []byte {
	head := element(0x1A45DFA3, unsigned(0x4286, 1), unsigned(0x42F7, 1), unsigned(0x42F2, 4), unsigned(0x42F3, 8),
		text(0x4282, "webm"), unsigned(0x4287, 4), unsigned(0x4285, 2))
	last := frames[len(frames)-1].ms
	info := element(0x1549A966, unsigned(0x2AD7B1, 1_000_000), text(0x4D80, "Now Then"), text(0x5741, "Now Then"),
		float(0x4489, float64(last+33)))
	tracks := element(0x1654AE6B,
		element(0xAE, unsigned(0xD7, 1), unsigned(0x73C5, 1), unsigned(0x83, 1), text(0x86, "V_VP8"),
			element(0xE0, unsigned(0xB0, width), unsigned(0xBA, height))))
	var clusters [][]byte
	var starts []int
	for i := 0; i < len(frames); {
		start := frames[i].ms
		blocks := [][]byte{unsigned(0xE7, uint64(start))}
		for first := true; i < len(frames) && (first || !frames[i].key); i++ {
			first = false
			block := []byte{0x81, 0, 0, 0}
			binary.BigEndian.PutUint16(block[1:], uint16(int16(frames[i].ms-start)))
			if frames[i].key {
				block[3] = 0x80
			}
			blocks = append(blocks, element(0xA3, block, frames[i].data))
		}
		clusters, starts = append(clusters, element(0x1F43B675, blocks...)), append(starts, start)
	}
	// Cues come before the clusters; their length does not depend on the places.
	cues := func(at int) []byte {
		var points [][]byte
		for i, c := range clusters {
			points = append(points,
				element(0xBB, unsigned(0xB3, uint64(starts[i])),
					element(0xB7, unsigned(0xF7, 1), unsigned(0xF1, uint64(at)))))
			at += len(c)
		}
		return element(0x1C53BB6B, points...)
	}
	before := len(info) + len(tracks)
	body := [][]byte{info, tracks, cues(before + len(cues(0)))}
	return append(head, element(0x18538067, append(body, clusters...)...)...)
}
