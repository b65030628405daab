"""Eighty made-up help pages, written the ways such pages are written, each with what it truly says.

A truth is a list of statements: `1080 s 8` a row of 8 Mbit/s for a short side of 1080 at standard frame rates, `h` at high ones,
`7-9` a range, with `hevc`, `vp9`, `av1` or `hdr` behind it; `stereo 192` or `mono aac 128` sound in kbit/s, `sound` without channels;
`bytes`, `seconds`, `long`, `short`, `fps`, `codecs`, `containers` and `sound_codecs` the limits. What a page leaves open is no truth.
`u` pages are understood wholly, `a` ones ask something, `r` ones give nothing.
"""

PAGES: list[tuple[str, str, str]] = [
    # tables
    (
        "u",
        "Resolution\tBit rate (24, 25, 30 fps)\tBit rate (48, 50, 60 fps)\n2160p\t40 Mbps\t60 Mbps\n1080p\t"
        "8 Mbps\t12 Mbps",
        "2160 s 40; 2160 h 60; 1080 s 8; 1080 h 12",
    ),
    ("u", "Size;Mbit/s\n1080p;8\n720p;5\n480p;2.5", "1080 s 8; 720 s 5; 480 s 2.5"),
    (
        "u",
        "| Frame size | Frame rate | Bit rate |\n|---|---|---|\n| 1920×1080 | 30 fps | 7–9 Mbit/s |\n| "
        "1920×1080 | 60 fps | 10–13 Mbit/s |",
        "1080 s 7-9; 1080 h 10-13",
    ),
    ("u", "Height,Min kbps,Max kbps\n1080,5500,7500\n720,3000,4500", "1080 s 5.5-7.5; 720 s 3-4.5"),
    ("u", "Size\tMinimum (Mbit/s)\tRecommended (Mbit/s)\n1080p\t6\t8\n720p\t3\t5", "1080 s 6-8; 720 s 3-5"),
    (
        "a",
        "Size\tMinimum\tRecommended\tMaximum\n1080p\t6 Mbps\t8 Mbps\t20 Mbps\n720p\t3 Mbps\t5 Mbps\t10 Mbps",
        "1080 s 6-8; 720 s 3-5",
    ),
    ("a", "Size\tMax bit rate\n1080p\t20 Mbps\n720p\t10 Mbps", ""),
    (
        "u",
        "Size | H.264 | HEVC | AV1\n2160p | 40 Mbps | 26 Mbps | 20 Mbps\n1080p | 8 Mbps | 5.2 Mbps | 4 Mbps",
        "2160 s 40; 2160 s 26 hevc; 2160 s 20 av1; 1080 s 8; 1080 s 5.2 hevc; 1080 s 4 av1",
    ),
    (
        "a",
        "Resolution\tSDR\tHDR\n30 fps\t60 fps\t30 fps\t60 fps\n1080p\t8 Mbps\t12 Mbps\t10 Mbps\t15 Mbps\n720p\t"
        "5 Mbps\t7.5 Mbps\t6.5 Mbps\t9.5 Mbps",
        "1080 s 8; 1080 h 12; 1080 s 10 hdr; 1080 h 15 hdr; 720 s 5; 720 h 7.5; 720 s 6.5 hdr; 720 h 9.5 hdr",
    ),
    (
        "u",
        "<table><tr><th rowspan=2>Size</th><th colspan=2>SDR</th><th colspan=2>HDR</th></tr><tr><th>30 fps<"
        "/th><th>60 fps</th><th>30 fps</th><th>60 fps</th></tr><tr><td>1080p</td><td>8 Mbps</td><td>12 Mbps<"
        "/td><td>10 Mbps</td><td>15 Mbps</td></tr></table>",
        "1080 s 8; 1080 h 12; 1080 s 10 hdr; 1080 h 15 hdr",
    ),
    (
        "u",
        "<table><tr><th>Type<th>Bitrate, 24/25/30<th>Bitrate, 50/60<tr><td>2160p (4K)<td>35–45 Mbps<"
        "td>53–68 Mbps<tr><td>1440p (2K)<td>16 Mbps<td>24 Mbps<tr><td>1080p<td>8 Mbps<td>12 Mbps</table>",
        "2160 s 35-45; 2160 h 53-68; 1440 s 16; 1440 h 24; 1080 s 8; 1080 h 12",
    ),
    ("a", "Resolution;30/60 fps\n1080p;12 / 8 Mbps\n720p;7 / 5 Mbps", ""),
    ("u", "Resolution;30/60 fps\n1080p;8 / 12 Mbps\n720p;5 / 7.5 Mbps", "1080 s 8; 1080 h 12; 720 s 5; 720 h 7.5"),
    (
        "a",
        "Shape\tFrame\tBit rate\nLandscape\t1920x1080\t8 Mbps\nPortrait\t1080x1920\t6 Mbps\nSquare\t1080x1080\t5 Mbps",
        "",
    ),
    ("u", "Shape\tFrame\tBit rate\nLandscape\t1920x1080\t8 Mbps\nPortrait\t1080x1920\t8 Mbps", "1080 s 8"),
    ("a", "1080p\t8\n720p\t5", ""),
    ("a", "Resolution\t30 fps\t60 fps\n1080p\t8000\t12000\n720p\t5000\t7500", ""),
    ("r", "1080p 30 60\n720p 30 60", ""),
    ("a", "Size | Bit rate\n720p/1080p | 8 Mbps", ""),
    ("a", "Quality\tBit rate\nHD\t8 Mbps\nSD\t3 Mbps", ""),
    ("u", "Quality\tBit rate\nUltra HD\t40 Mbps\nFull HD\t8 Mbps\nHD\t5 Mbps", "2160 s 40; 1080 s 8; 720 s 5"),
    ("r", "Size\tBit rate\tBit rate\n1080p\t8 Mbps\t12 Mbps", ""),
    ("u", "Rate;1080p;720p\n30 fps;8 Mbps;5 Mbps\n60 fps;12 Mbps;7.5 Mbps", "1080 s 8; 720 s 5; 1080 h 12; 720 h 7.5"),
    ("u", "Size\tVideo\tAudio\n1080p\t8 Mbps\t192 kbps\n720p\t5 Mbps\t192 kbps", "1080 s 8; 720 s 5; sound 192"),
    ("a", "Resolution\tBit rate\n1080p\t5 Mbps\n720p\t8 Mbps", "720 s 8"),
    (
        "u",
        "Codec\tSize\tRate\tMbit/s\nH.264\t1080p\t30\t8\nHEVC\t1080p\t30\t5\nVP9\t1080p\t30\t5.5",
        "1080 s 8; 1080 s 5 hevc; 1080 s 5.5 vp9",
    ),
    ("r", "Codec\tSize\tBit rate\nMPEG-2\t1080p\t50 Mbps", ""),
    # lists and lines
    ("u", "H.264 1080p 30fps 8 Mbps", "1080 s 8"),
    ("u", "H.265 2160p 60fps 50 Mbps\nH.264 1080p 60fps 12 Mbps", "2160 h 50 hevc; 1080 h 12"),
    (
        "u",
        "• 2160p at 30 fps: 40 Mbps\n• 1080p at 30 fps: 8 Mbps\n• 720p at 30 fps: 5 Mbps",
        "2160 s 40; 1080 s 8; 720 s 5",
    ),
    ("u", "- 1080p60: 12,000 kbps\n- 1080p30: 8,000 kbps\n- 720p30: 5,000 kbps", "1080 h 12; 1080 s 8; 720 s 5"),
    ("u", "1080p: between 8,000 and 12,000 kilobits per second", "1080 s 8-12"),
    ("u", "1080p: between 8,000 and 12,000 kilobits", "1080 s 8-12"),
    ("a", "1080p: minimum 8, recommended 12, maximum 20 Mbps", "1080 s 8-12"),
    ("a", "1080p: 20 Mbps maximum", ""),
    ("a", "1080p: up to 20 Mbps", ""),
    ("a", "1080p: no more than 20 Mbit/s", ""),
    ("a", "1080p: at least 6 Mbps", ""),
    ("u", "1080p: at least 6 Mbps, ideally 8 Mbps", "1080 s 6-8"),
    ("u", "1080p min 6 Mbps max 9 Mbps", "1080 s 6-9"),
    ("a", "1080p: 8 / 12 Mbps", ""),
    ("a", "1080p: 8 or 12 Mbps", ""),
    ("a", "1080p: 8 and 12 Mbps", ""),
    ("u", "1080p: 8 Mbps (30 fps), 12 Mbps (60 fps)", "1080 s 8; 1080 h 12"),
    ("u", "1080p at 30 fps needs 8 Mbps, 60 fps needs 12 Mbps", "1080 s 8; 1080 h 12"),
    ("u", "8 Mbps for 1080p, 5 Mbps for 720p and 40 Mbps for 4K", "1080 s 8; 720 s 5; 2160 s 40"),
    ("a", "1080p and higher: 12 Mbps", ""),
    ("a", "H.264 or HEVC, 1080p: 8 Mbps", ""),
    ("a", "SDR and HDR, 1080p: 10 Mbps", ""),
    ("a", "1080p: 8 MBps", ""),
    ("r", "1080p: 8 MB/s", ""),
    ("r", "1080p: 60 Mb per minute", ""),
    ("a", "1080p: 7.500 Mbps", ""),
    ("a", "1080i: 10 Mbps", ""),
    ("a", "1080p: 900 Mbps", ""),
    ("a", "1080p: 128 kbps", ""),
    ("r", "1080p at 120 fps: 24 Mbps", ""),
    ("a", "1080p 30 fps: 8 Mbps, 720p: 5 Mbps", "1080 s 8"),
    (
        "u",
        "HDR uploads\n2160p: 50 Mbps\n1080p: 10 Mbps\nSDR uploads\n2160p: 40 Mbps\n1080p: 8 Mbps",
        "2160 s 50 hdr; 1080 s 10 hdr; 2160 s 40; 1080 s 8",
    ),
    ("a", "1080p: 8 Mbps\n1080p: 9 Mbps\n720p: 5 Mbps", "720 s 5"),
    # prose
    (
        "u",
        "For 1080p we recommend 8 Mbps. For 4K use 45 Mbps. For 720p 5 Mbps is enough.",
        "1080 s 8; 2160 s 45; 720 s 5",
    ),
    ("a", "For 1080p uploads at 30 fps we recommend 8 Mbps. At 60 fps use 12 Mbps.", "1080 s 8; 1080 h 12"),
    ("a", "Viewers need 5 Mbps to watch 1080p.", ""),
    ("a", "Live streams in 1080p: 6 Mbps", ""),
    ("a", "Do not upload 1080p below 4 Mbps.", ""),
    ("a", "Recommended live settings\n1080p: 6 Mbps\n720p: 4 Mbps", ""),
    ("r", "Please read our guide before you upload. It answers most questions.", ""),
    ("a", "Our encoder likes 1080p at 8 Mbps or, for sport, 14 Mbps.", ""),
    # sound
    ("u", "Stereo: 384 kbps\nMono: 128 kbps AAC", "stereo 384; mono aac 128"),
    ("r", "5.1 surround: 512 kbps", ""),
    ("u", "1080p: 8 Mbps, AAC stereo 192 kbps", "1080 s 8; stereo aac 192"),
    ("a", "Audio: AAC, 96 kbps per channel", ""),
    ("a", "Stereo: 192 kbps\nStereo: 256 kbps", ""),
    # limits
    ("u", "Maximum file size: 4 GB\nMaximum length: 60 minutes", "bytes 4000000000; seconds 3600"),
    ("u", "Files up to 512 MB and up to 2 minutes 20 seconds", "bytes 512000000; seconds 140"),
    (
        "u",
        "Video codec: H.264, HEVC\nAudio codec: AAC\nContainer: MP4, MOV",
        "codecs h264 hevc; sound_codecs aac; containers mp4 mov",
    ),
    ("a", "Films up to 15 minutes; partners up to 12 hours", ""),
    ("u", "We take up to 8K\nFrame rate: up to 60 fps\n1080p: 8 Mbps", "short 4320; long 7680; fps 60; 1080 s 8"),
    ("a", "We no longer accept VP9", ""),
    ("u", "Maximum resolution 3840 x 2160, max 50 fps", "short 2160; long 3840; fps 50"),
]
