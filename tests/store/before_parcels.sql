BEGIN TRANSACTION;
CREATE TABLE choices (
    master_id TEXT NOT NULL REFERENCES masters (id) ON DELETE CASCADE,
    destination_id TEXT NOT NULL,
    choices TEXT NOT NULL, sheet_version INTEGER,
    PRIMARY KEY (master_id, destination_id)
) STRICT;
INSERT INTO "choices" VALUES('e42b376f44c1','orrery-wide','{"method":null,"container":null,"codec":"hevc","framing":"fit","shape":null,"focus":null,"zoom":1.0,"sharpen":false,"short_side_px":null,"frame_rate":null,"rate_control":null,"video_bitrate_bps":12000000,"ceiling_bps":null,"buffer_s":null,"quality":null,"keyframe_interval_s":null,"effort":null,"fast_start":null,"picture":true,"sound":true,"sound_codec":null,"sound_bitrate_bps":null,"sample_rate_hz":null,"channels":null,"gain_db":null,"max_bytes":null}',1);
INSERT INTO "choices" VALUES('e42b376f44c1','fernpost-reel','{"method":null,"container":null,"codec":null,"framing":"fill","shape":null,"focus":null,"zoom":1.0,"sharpen":false,"short_side_px":null,"frame_rate":null,"rate_control":null,"video_bitrate_bps":null,"ceiling_bps":null,"buffer_s":null,"quality":null,"keyframe_interval_s":null,"effort":null,"fast_start":null,"picture":true,"sound":true,"sound_codec":null,"sound_bitrate_bps":null,"sample_rate_hz":null,"channels":null,"gain_db":null,"max_bytes":null}',1);
INSERT INTO "choices" VALUES('5de8a9d55863','kitewall-square','{"method":null,"container":null,"codec":null,"framing":"blur","shape":null,"focus":null,"zoom":1.0,"sharpen":false,"short_side_px":null,"frame_rate":null,"rate_control":null,"video_bitrate_bps":null,"ceiling_bps":null,"buffer_s":null,"quality":null,"keyframe_interval_s":null,"effort":null,"fast_start":null,"picture":true,"sound":true,"sound_codec":null,"sound_bitrate_bps":null,"sample_rate_hz":null,"channels":null,"gain_db":null,"max_bytes":null}',1);
CREATE TABLE excerpts (
    master_id TEXT NOT NULL REFERENCES masters (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    title TEXT NOT NULL,
    in_s TEXT NOT NULL,
    out_s TEXT NOT NULL,
    PRIMARY KEY (master_id, number)
) STRICT;
INSERT INTO "excerpts" VALUES('e42b376f44c1',1,'Excerpt 1','0','12');
INSERT INTO "excerpts" VALUES('e42b376f44c1',2,'The wave','20','40');
CREATE TABLE "jobs" (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'strip', 'check', 'listen', 'curve', 'pack')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    title TEXT NOT NULL,
    master_id TEXT REFERENCES masters (id) ON DELETE CASCADE,
    destination_id TEXT,
    picture_key TEXT,
    spec TEXT NOT NULL,
    created_at REAL NOT NULL,
    started_at REAL,
    ended_at REAL,
    lease_owner TEXT,
    lease_until REAL,
    attempts INTEGER NOT NULL DEFAULT 0,
    cancel_asked INTEGER NOT NULL DEFAULT 0,
    progress TEXT,
    result TEXT,
    problem TEXT,
    revision INTEGER NOT NULL
) STRICT;
INSERT INTO "jobs" VALUES('fb2488c73c2a','pack','done','Gale → Orrery','e42b376f44c1','orrery-wide',NULL,'{"folder": "/out", "file_name": "Gale.mp4"}',1.79570319057014250751e+09,1.79570319057359337805e+09,1.79570319057721424103e+09,NULL,1.79570319657359337805e+09,1,0,NULL,'{"file_name": "Gale.mp4"}',NULL,16);
INSERT INTO "jobs" VALUES('c8d5be8f58b0','curve','waiting','Rehearsing','e42b376f44c1','orrery-wide',NULL,'{}',1.79570319058067607879e+09,NULL,NULL,NULL,NULL,0,0,NULL,NULL,NULL,17);
INSERT INTO "jobs" VALUES('b2358a17bca9','check','waiting','Checking','5de8a9d55863',NULL,NULL,'{}',1.79570319058456897738e+09,NULL,NULL,NULL,NULL,0,0,NULL,NULL,NULL,18);
CREATE TABLE lanes (
    master_id TEXT PRIMARY KEY REFERENCES masters (id) ON DELETE CASCADE,
    destinations TEXT NOT NULL
) STRICT;
INSERT INTO "lanes" VALUES('e42b376f44c1','["sprigg-upright", "orrery-wide"]');
CREATE TABLE masters (
    id TEXT PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    size_bytes INTEGER NOT NULL,
    modified_ns INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('reading', 'ready', 'unreadable', 'gone')),
    facts TEXT,
    problem TEXT,
    strip_pictures INTEGER NOT NULL DEFAULT 0,
    added_at REAL NOT NULL,
    revision INTEGER NOT NULL
, content_id TEXT, arriving INTEGER NOT NULL DEFAULT 0, uploaded INTEGER NOT NULL DEFAULT 0, removed INTEGER NOT NULL DEFAULT 0, mending TEXT, excerpt_number INTEGER) STRICT;
INSERT INTO "masters" VALUES('e42b376f44c1','/films/Gale over the skerry.mp4',1,1795703190504203054,'ready','{"name":"Gale over the skerry.mp4","content_id":"c0ffee","container":"MP4/MOV","size_bytes":50000000,"duration_s":"60","bitrate_bps":20000000,"video":{"codec":"h264","profile":null,"level":null,"coded_width":1920,"coded_height":1080,"sample_aspect_ratio":"1","rotation_deg":0,"display_width":1920,"display_height":1080,"frame_rate":"25","variable_rate":false,"lowest_rate":null,"typical_rate":null,"highest_rate":null,"pictures":null,"scan":"not stated","pixel_format":"yuv420p","bit_depth":8,"chroma":"4:2:0","colour":{"primaries":"bt709","transfer":"bt709","matrix":"bt709","range":"tv"},"container_colour":null,"bitrate_bps":null,"start_s":"0"},"audio":{"codec":"aac","sample_rate_hz":48000,"channels":2,"layout":"stereo","bitrate_bps":null,"integrated_lufs":-20.0,"loudness_range_lu":6.0,"true_peak_dbtp":-8.0,"start_s":"0","mixes":[]},"sound_streams":0,"chapters":0,"captions":0,"timecode":null,"edit_list":false,"fast_start":null,"measured_scan":null,"mending":{"remove_bars":null,"deinterlace":null,"constant_rate":null,"turn_down":false,"focus":null}}',NULL,0,1795703190.52427,6,'c0ffee',0,0,0,NULL,2);
INSERT INTO "masters" VALUES('5de8a9d55863','/films/Lamp room.mp4',1,1795703190504259498,'ready','{"name":"Gale over the skerry.mp4","content_id":"c0ffee","container":"MP4/MOV","size_bytes":50000000,"duration_s":"20","bitrate_bps":20000000,"video":{"codec":"h264","profile":null,"level":null,"coded_width":1080,"coded_height":1920,"sample_aspect_ratio":"1","rotation_deg":0,"display_width":1080,"display_height":1920,"frame_rate":"30","variable_rate":false,"lowest_rate":null,"typical_rate":null,"highest_rate":null,"pictures":null,"scan":"not stated","pixel_format":"yuv420p","bit_depth":8,"chroma":"4:2:0","colour":{"primaries":"bt709","transfer":"bt709","matrix":"bt709","range":"tv"},"container_colour":null,"bitrate_bps":null,"start_s":"0"},"audio":{"codec":"aac","sample_rate_hz":48000,"channels":2,"layout":"stereo","bitrate_bps":null,"integrated_lufs":-20.0,"loudness_range_lu":6.0,"true_peak_dbtp":-8.0,"start_s":"0","mixes":[]},"sound_streams":0,"chapters":0,"captions":0,"timecode":null,"edit_list":false,"fast_start":null,"measured_scan":null,"mending":{"remove_bars":null,"deinterlace":null,"constant_rate":null,"turn_down":false,"focus":null}}',NULL,0,1.79570319052779054638e+09,4,'c0ffee',0,0,0,NULL,NULL);
CREATE TABLE migrations (name TEXT PRIMARY KEY, checksum TEXT NOT NULL, applied_at REAL NOT NULL) STRICT;
INSERT INTO "migrations" VALUES('0001_first.sql','3a697aaf94ceaacfc0ce49fa86305d03d1f397149fa7df8281f4fff02f38daad',1.79570319050890946392e+09);
INSERT INTO "migrations" VALUES('0002_checks.sql','aab2ad2213262a2ff0b7a776dcd8770d82eba616b968f0a5ddf1fa5cbdbb3510',1.79570319051558327681e+09);
INSERT INTO "migrations" VALUES('0003_sheets.sql','3b69ef4b1eba29e7f1624ed12b9eecb5cdf45bfb10e7a784e802a2eb667879d0',1.79570319051678919789e+09);
INSERT INTO "migrations" VALUES('0004_shapes.sql','0e88e9121c0cfb244e98a4f62fcdb364791c9a0185da9ab12862d4c939198845',1.79570319051763582231e+09);
CREATE TABLE perfect_uploads (
    picture_key TEXT PRIMARY KEY,
    reel TEXT NOT NULL,
    perfect TEXT NOT NULL,
    made_at REAL NOT NULL
) STRICT;
CREATE TABLE receipts (
    job_id TEXT PRIMARY KEY,
    master_id TEXT NOT NULL,
    master_name TEXT NOT NULL,
    destination_id TEXT NOT NULL,
    receipt TEXT NOT NULL,
    plan TEXT NOT NULL,
    made_at REAL NOT NULL
) STRICT;
INSERT INTO "receipts" VALUES('fb2488c73c2a','e42b376f44c1','Gale over the skerry.mp4','orrery-wide','{"file_name":"Gale.mp4","folder":"/out","size_bytes":9,"sha256":"0","encode_s":1.0,"pictures":1500,"rows":[],"tries":1,"sound":null}','{"destination_id":"orrery-wide","destination_name":"Orrery · wide film","sheet_version":1,"master_content_id":"c0ffee","excerpt":{"in_s":"0","out_s":"60"},"method":{"value":"encoded","because":{"code":"encoded","sentence":"so that size, rate and bit rate are as planned","source":"program"}},"container":{"value":"mp4","because":{"code":"container_accepted","sentence":"taken by Orrery","source":"sheet"}},"fast_start":{"value":true,"because":{"code":"fast_start","sentence":"the index stands first, so playing can begin before all has come; the picture is the same","source":"program"}},"chapters":{"value":false,"because":{"code":"no_chapters","sentence":"the master has none","source":"master"}},"size_cap":{"value":24000000000,"because":{"code":"sheet_cap","sentence":"the most that Orrery takes","source":"sheet"}},"video":{"codec":{"value":"h264","because":{"code":"codec_accepted","sentence":"the first choice of Orrery","source":"sheet"}},"profile":{"value":"High","because":{"code":"profile","sentence":"plays wherever H.264 of this size plays","source":"standard"}},"level":{"value":"4.0","because":{"code":"lowest_level","sentence":"lowest that carries 25 frames/s at this size and rate","source":"standard"}},"tier":"","framing":{"value":{"mode":null,"width":1920,"height":1080,"crop":{"x":0,"y":0,"width":1920,"height":1080},"picture":{"x":0,"y":0,"width":1920,"height":1080},"shape":"16/9"},"because":{"code":"size_as_master","sentence":"as the master","source":"master"}},"deinterlace":{"value":"not deinterlaced","because":{"code":"not_deinterlaced","sentence":"pictures are packed line for line","source":"master"}},"field_rate":false,"pixel_format":{"value":"yuv420p","because":{"code":"pixel_format","sentence":"as the master, and what viewers'' players take","source":"standard"}},"frame_rate":{"value":"25","because":{"code":"rate_as_master","sentence":"as the master, exact","source":"master"}},"keep_every":"1","frames":1500,"rate_control":{"value":"two passes","because":{"code":"two_passes","sentence":"the first pass finds the hard moments, so the size comes out as planned","source":"measurement"}},"target_bps":{"value":12000000,"because":{"code":"creator_rate","sentence":"your choice, 1.5 × guidance (7.0 Mbit/s to 9.1 Mbit/s)","source":"creator"}},"ceiling_bps":{"value":18000000,"because":{"code":"ceiling","sentence":"1.5 × target for hard moments","source":"program"}},"buffer_bits":{"value":18000000,"because":{"code":"buffer","sentence":"1 s at the ceiling","source":"program"}},"quality":{"value":null,"because":{"code":"by_rate","sentence":"the bit rate decides","source":"standard"}},"keyframe_interval_frames":{"value":50,"because":{"code":"keyframes","sentence":"2 s at this rate, closed","source":"sheet"}},"effort":{"value":"medium","because":{"code":"effort_medium","sentence":"the usual balance of time and condition","source":"program"}},"colour":{"value":{"primaries":"bt709","transfer":"bt709","matrix":"bt709","range":"tv"},"because":{"code":"colour_as_master","sentence":"as the master''s tags","source":"master"}},"source_matrix":"bt709","source_range":"tv","scaler":{"value":"bicubic","because":{"code":"scaler","sentence":"sharp without ringing at these ratios","source":"program"}},"sharpen":{"value":0.0,"because":{"code":"not_sharpened","sentence":"nothing is sharpened unless you ask for it","source":"program"}}},"no_picture_because":null,"audio":{"codec":{"value":"aac","because":{"code":"sound_codec","sentence":"what Orrery asks for","source":"sheet"}},"bitrate_bps":{"value":240000,"because":{"code":"sound_rate","sentence":"Orrery''s stereo rate","source":"sheet"}},"sample_rate_hz":{"value":48000,"because":{"code":"sample_rate","sentence":"as the master","source":"master"}},"channels":{"value":2,"because":{"code":"channels","sentence":"as the master","source":"master"}},"gain_db":{"value":0.0,"because":{"code":"gain_only_down","sentence":"quieter than Orrery''s −15 LUFS, and Orrery never turns up","source":"measurement"}},"copied":false,"expected_lufs":-20.0,"expected_peak_dbtp":-8.0,"master_lufs":-20.0,"master_peak_dbtp":-8.0,"target_lufs":-15.0,"limit_dbtp":-1.5},"no_audio_because":null,"guidance":{"low_bps":7000000,"high_bps":9100000,"frame_rate_class":"standard","short_side_px":1080,"rows":[{"short_side_px":1080,"frame_rate_class":"standard","dynamic_range":"sdr","codec":"h264","low_bps":7000000,"high_bps":9100000}],"how":"row","factor":1.0,"factor_for":"","borrowed_class":false,"sentence":"7.0 Mbit/s to 9.1 Mbit/s: row 1080, standard rates"},"stamps":[],"master_bytes":null}',1.7957031905884459019e+09);
CREATE TABLE recipe_changes (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    recipe_id TEXT NOT NULL,
    what TEXT NOT NULL,
    before TEXT,
    changed_at REAL NOT NULL
) STRICT;
INSERT INTO "recipe_changes" VALUES(1,'weekly-gale','gone',NULL,1.7957031905585026741e+09);
CREATE TABLE recipes (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    document TEXT NOT NULL,
    changed_at REAL NOT NULL
) STRICT;
INSERT INTO "recipes" VALUES('weekly-gale','Weekly gale','{
 "id": "weekly-gale",
 "name": "Weekly gale",
 "note": "for Fridays",
 "starred": true,
 "parts": [
  {
   "destination_id": "orrery-wide",
   "intent": {
    "times_guidance": 1.504
   },
   "made": [
    {
     "setting": "Frame size",
     "value": "1920×1080"
    },
    {
     "setting": "Frame rate",
     "value": "25"
    },
    {
     "setting": "Codec",
     "value": "H.264 High, level 4.0"
    },
    {
     "setting": "Bit rate",
     "value": "12.0 Mbit/s"
    },
    {
     "setting": "Rate control",
     "value": "two passes"
    },
    {
     "setting": "Ceiling",
     "value": "18.0 Mbit/s"
    },
    {
     "setting": "Keyframes",
     "value": "every 50 frames"
    },
    {
     "setting": "Effort",
     "value": "medium"
    },
    {
     "setting": "Colour",
     "value": "BT.709, limited"
    },
    {
     "setting": "Sound",
     "value": "AAC 240 kbit/s, stereo, 48 kHz"
    },
    {
     "setting": "Level",
     "value": "as it is, −20.0 LUFS"
    },
    {
     "setting": "Container",
     "value": "MP4, index first"
    }
   ]
  }
 ],
 "schema_version": 1
}',1.7957031905585026741e+09);
CREATE TABLE rehearsals (
    picture_key TEXT NOT NULL,
    target_bps INTEGER NOT NULL,
    folder TEXT NOT NULL,
    rehearsal TEXT NOT NULL,
    made_at REAL NOT NULL,
    PRIMARY KEY (picture_key, target_bps)
) STRICT;
INSERT INTO "rehearsals" VALUES('key',8000000,'/tmp','{"picture_key":"key","target_bps":8000000,"achieved_bps":8000000,"whole":false,"pictures_packed":300,"pictures_measured":80,"pack_pictures_per_s":12.0,"arrivals":[{"station":"scaled","screen":"phone","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":100.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"packed","screen":"phone","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":97.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"phone","line":"good","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"phone","line":"slow","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"scaled","screen":"laptop","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":100.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"packed","screen":"laptop","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":97.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"laptop","line":"good","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"laptop","line":"slow","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"scaled","screen":"tv","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":100.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"packed","screen":"tv","line":null,"rendition":null,"raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":97.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"tv","line":"good","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"},{"station":"arrived","screen":"tv","line":"slow","rendition":"1080p h264","raster":[960,540],"xpsnr_db":36.0,"ssim":0.97,"condition":70.0,"scale":"yardstick","evidence":"rehearsed"}],"renditions":[],"moments":[]}',1.79570319059187960631e+09);
CREATE TABLE removed_sheets (
    sheet_id TEXT PRIMARY KEY
) STRICT;
CREATE TABLE revision (
    only_row INTEGER PRIMARY KEY CHECK (only_row = 1),
    number INTEGER NOT NULL
) STRICT;
INSERT INTO "revision" VALUES(1,21);
CREATE TABLE settings (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
INSERT INTO "settings" VALUES('line','{"uplink_mbps":3.0,"steadiness":0.8,"price_per_gb":2.0,"currency":"£","allowance_gb":null}');
INSERT INTO "settings" VALUES('output_folder','/out');
CREATE TABLE sheets (
    sheet_id TEXT NOT NULL,
    version INTEGER NOT NULL,
    document TEXT NOT NULL,
    kept_at REAL NOT NULL,
    PRIMARY KEY (sheet_id, version)
) STRICT;
INSERT INTO "sheets" VALUES('tern',1,'{
 "schema_version": 1,
 "id": "tern",
 "name": "Tern",
 "kind": "films",
 "version": 1,
 "checked_on": "2026-11-01",
 "source": "",
 "placements": [
  {
   "id": "main",
   "name": "main placement",
   "picture": true,
   "narrowest": "1/4",
   "widest": "4",
   "usual_shape": "16/9",
   "usual_short_side_px": 1080,
   "max_long_side_px": 1920,
   "max_short_side_px": 1080,
   "max_frame_rate": "60",
   "codecs": [
    "h264"
   ],
   "containers": [
    "mp4"
   ],
   "max_bytes": 1000000000,
   "quota_bytes": null,
   "quota_days": null,
   "max_duration_s": 3600,
   "keyframe_interval_s": 2.0,
   "covered": null,
   "max_level": {},
   "peak_bps": null,
   "keeps": [],
   "guidance": [
    {
     "short_side_px": 1080,
     "frame_rate_class": "standard",
     "dynamic_range": "sdr",
     "codec": "h264",
     "low_bps": 6000000,
     "high_bps": 8000000
    }
   ],
   "guidance_factors": {},
   "hdr_factor": null,
   "audio": {
    "codecs": [
     "aac"
    ],
    "stereo_bps": 192000,
    "mono_bps": 96000,
    "stereo_low_bps": null,
    "mono_low_bps": null,
    "sample_rates_hz": [
     48000
    ],
    "target_lufs": null,
    "true_peak_limit_dbtp": null,
    "turns": "both"
   },
   "handling": {
    "tiers": [
     {
      "name": "assumed",
      "up_to_short_side_px": null,
      "renditions": [
       {
        "short_side_px": 1080,
        "codec": "h264",
        "quality": 25,
        "ceiling_standard_bps": 2100000,
        "ceiling_high_bps": 2100000
       },
       {
        "short_side_px": 720,
        "codec": "h264",
        "quality": 25,
        "ceiling_standard_bps": 2100000,
        "ceiling_high_bps": 2100000
       },
       {
        "short_side_px": 540,
        "codec": "h264",
        "quality": 25,
        "ceiling_standard_bps": 2100000,
        "ceiling_high_bps": 2100000
       }
      ]
     }
    ],
    "assumed": "middling",
    "wrong_shape": "bars",
    "frame_rate_cap": "60",
    "buffer_s": 2.0,
    "keyframe_s": 2.0,
    "effort": "quick",
    "loudness": "none",
    "sound_bps": null
   }
  }
 ]
}
',1.79570319056259632105e+09);
CREATE TABLE speeds (
    id INTEGER PRIMARY KEY,
    effort TEXT NOT NULL,
    rate_control TEXT NOT NULL,
    pixels_per_s REAL NOT NULL,
    measured_at REAL NOT NULL
, codec TEXT NOT NULL DEFAULT 'h264') STRICT;
INSERT INTO "speeds" VALUES(1,'medium','two passes',24883200.0,1.79570319059468150139e+09,'h264');
CREATE TABLE surveys (
    content_id TEXT PRIMARY KEY,
    picture TEXT,
    sound TEXT,
    loudness TEXT,
    measured_at REAL NOT NULL
, levels TEXT) STRICT;
CREATE INDEX jobs_by_state ON jobs (state, kind, created_at);
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('recipe_changes',1);
COMMIT;
