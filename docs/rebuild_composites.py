#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Rebuilds every composite of a session from its edit list and its takes, and nothing else.

usage: rebuild_composites.py EDITS.json SESSION_FOLDER OUT_FOLDER

Writes one WAV file of 32-bit floats a track, from the session's start to the end of the composite. docs/edit-list.md
describes the list. Needs Python 3 and numpy.
"""
import json, os, struct, sys
import numpy as np

edits, folder, out = json.load(open(sys.argv[1])), sys.argv[2], sys.argv[3]


def read_wave(path):
    """Samples as float32, one column a channel."""
    data = open(path, "rb").read()
    at, width, channels, code = 12, 0, 0, 0
    while at + 8 <= len(data):
        name, size = data[at:at + 4], struct.unpack("<I", data[at + 4:at + 8])[0]
        if name == b"fmt ":
            code, channels, _, _, _, bits = struct.unpack("<HHIIHH", data[at + 8:at + 24])
            if code == 0xFFFE:
                code = struct.unpack("<H", data[at + 32:at + 34])[0]
            width = bits // 8
        if name == b"data":
            raw = np.frombuffer(data[at + 8:at + 8 + size], np.uint8)
            break
        at += 8 + size + size % 2
    raw = raw[:len(raw) // (width * channels) * width * channels]
    if code == 3:
        return raw.view(np.float32).reshape(-1, channels)
    wide = np.zeros((len(raw) // width, 4), np.uint8)
    wide[:, 4 - width:] = raw.reshape(-1, width)
    return (wide.view(np.int32).reshape(-1, channels) / np.float32(2**31)).astype(np.float32)


def fade(gains, start, end, given, before, behind):
    """Multiplies by a fade that lies somewhere in [start, end), and by what holds before and behind it."""
    first, length = given["start"], given["length"]
    side = np.concatenate([np.full(max(0, first - start), before, np.float32),
                           np.array(given["gains"], np.float32)[max(0, start - first):],
                           np.full(max(0, end - first - length), behind, np.float32)])
    gains *= side[:end - start]


files = {}
os.makedirs(out, exist_ok=True)
for track in edits["tracks"]:
    if not track["segments"]:
        continue
    total = np.zeros((max(s["end"] for s in track["segments"]), track["channels"]), np.float32)
    for s in sorted(track["segments"], key=lambda s: s["start"]):
        start, end = s["start"], s["end"]
        gains = np.full(end - start, s["gain"], np.float32)
        for name, before, behind in (("fadeIn", 0, 1), ("fadeOut", 1, 0), ("compositeIn", 0, 1), ("compositeOut", 1, 0)):
            if name in s:
                fade(gains, start, end, s[name], before, behind)
        for line in s.get("levels", []):
            where = [p["at"] for p in line]
            gains *= (10 ** (np.interp(np.arange(start, end), where, [p["decibels"] for p in line]) / 20)).astype(np.float32)
        for channel, source in enumerate(s["sources"]):
            if source["file"] not in files:
                files[source["file"]] = read_wave(os.path.join(folder, source["file"]))
            take = files[source["file"]][:, source["channel"]]
            first = s["sourceStart"]
            heard = take[max(0, first):max(0, first + end - start)]
            lead = max(0, -first)
            skip = max(0, -start)  # what lies before the session's start
            placed = np.zeros(end - start, np.float32)
            placed[lead:lead + len(heard)] = heard
            total[max(0, start):end, channel] += (placed * gains)[skip:]
    data = total.astype("<f4").tobytes()
    header = struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + len(data), b"WAVE", b"fmt ", 16, 3, track["channels"],
                         edits["rate"], edits["rate"] * 4 * track["channels"], 4 * track["channels"], 32, b"data", len(data))
    open(os.path.join(out, track["name"].replace("/", "-") + ".wav"), "wb").write(header + data)
