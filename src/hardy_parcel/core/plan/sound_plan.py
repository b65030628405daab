"""The sound of a plan: codec, rate, channels, and the gain towards the destination's level (rules §3)."""

from __future__ import annotations

from ..errors import BadChoice
from ..master.facts import AudioFacts, Heard, MasterFacts
from ..sheets.sheet import AudioRule, Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.codecs import PCM_BITS, SOUND_CODECS, name_of
from ..trade.names import Container, SoundCodec
from ..values import level_text
from .choices import Choices
from .plan import AudioPlan, Plan

SAFE_LUFS, SAFE_PEAK_DBTP = -14.0, -1.0
"""Where a master that is too loud is turned down to when its destination states no level."""


def choose_codec(rule: AudioRule, choices: Choices, container: Container | None, name: str) -> Chosen[SoundCodec]:
    """The creator's codec, or the first of the sheet's that goes into the container; raises BadChoice for one not taken."""
    if choices.sound_codec is not None:
        if choices.sound_codec not in rule.codecs:
            taken = ", ".join(name_of(codec) for codec in rule.codecs)
            raise BadChoice(f"{name} does not take {name_of(choices.sound_codec)} sound.", f"Choose one of: {taken}.", code="not_taken")
        return chosen(choices.sound_codec, "creator_sound_codec", "your choice", Source.CREATOR)
    fitting = [codec for codec in rule.codecs if container is None or container in SOUND_CODECS[codec].beside]
    if not fitting:
        raise BadChoice(f"No sound that {name} takes goes into this container.", "Choose another container, or leave the sound out.")
    first = fitting[0] == rule.codecs[0]
    return chosen(
        fitting[0], "sound_codec", f"what {name} asks for" if first else f"the first that {name} takes and the container holds",
        Source.SHEET,
    )


def plan_sound(
    facts: MasterFacts, destination: Destination, choices: Choices, codec: Chosen[SoundCodec]
) -> tuple[AudioPlan | None, Because | None]:
    """The sound's plan, or why there is none."""
    sound, rule, name = facts.audio, destination.placement.audio, destination.sheet_name
    if sound is None:
        return None, Because(code="no_sound", sentence="the master has none", source=Source.MASTER)
    if not choices.sound:
        return None, Because(code="sound_left_out", sentence="left out on purpose", source=Source.CREATOR)
    channels = _channels(sound, choices)
    rate = _sample_rate(sound, rule, choices, codec.value, name)
    heard = sound.heard_as(channels.value)
    gain = _gain(heard, rule, name, choices, turn_down=facts.mending.turn_down)
    return (
        AudioPlan(
            codec=codec,
            bitrate_bps=_bit_rate(rule, choices, codec.value, channels.value, rate.value, name),
            sample_rate_hz=rate,
            channels=channels,
            gain_db=gain,
            expected_lufs=None if heard.integrated_lufs is None else round(heard.integrated_lufs + gain.value, 1),
            expected_peak_dbtp=None if heard.true_peak_dbtp is None else round(heard.true_peak_dbtp + gain.value, 1),
            master_lufs=heard.integrated_lufs,
            master_peak_dbtp=heard.true_peak_dbtp,
            target_lufs=rule.target_lufs,
            limit_dbtp=rule.true_peak_limit_dbtp,
        ),
        None,
    )


def as_mono(facts: MasterFacts, destination: Destination, choices: Choices, codec: Chosen[SoundCodec]) -> AudioPlan | None:
    """The sound in one channel, for one whose two carry the same."""
    mono, _ = plan_sound(facts, destination, choices.model_copy(update={"channels": 1}), codec)
    why = chosen(1, "channels_alike", "both channels carry the same, so one loses nothing", Source.MEASURED)
    return mono and mono.model_copy(update={"channels": why, "under_cap": True})


PEAK_SPARES_DB = (0.1, 0.3, 0.6, 1.0)
"""How far below the limit the sound is brought when coding lifted it above, try by try: a codec decides anew each time, so
that a little less may come out a little higher."""


def below_the_limit(plan: Plan, true_peak_dbtp: float | None, tries: int = 0) -> Plan | None:
    """The plan with a gain that brings a packed sound of this true peak below its limit, after so many tries.

    None where it is below, where the gain was typed, and after the last try.
    """
    sound = plan.audio
    if sound is None or sound.copied or true_peak_dbtp is None or sound.limit_dbtp is None:
        return None
    over = true_peak_dbtp - sound.limit_dbtp
    if over <= 0 or tries >= len(PEAK_SPARES_DB) or sound.gain_db.because.source is Source.CREATOR:
        return None
    down = round(over + PEAK_SPARES_DB[tries], 2)
    why = sound.gain_db.because.sentence
    if tries == 0:
        why = f"{why}; coding lifted its peak over that, so it is turned less"
    gain = chosen(round(sound.gain_db.value - down, 2), "gain_after_coding", why, Source.MEASURED)
    expected = None if sound.expected_lufs is None else round(sound.expected_lufs - down, 1)
    peak = None if sound.expected_peak_dbtp is None else round(sound.expected_peak_dbtp - down, 1)
    lowered = sound.model_copy(update={"gain_db": gain, "expected_lufs": expected, "expected_peak_dbtp": peak})
    return plan.model_copy(update={"audio": lowered})


def _channels(sound: AudioFacts, choices: Choices) -> Chosen[int]:
    if choices.channels is not None and choices.channels != min(2, sound.channels):
        return chosen(choices.channels, "creator_channels", "your choice, by the weights of BT.775", Source.CREATOR)
    if sound.channels > 2:
        return chosen(2, "mixed_down", f"{sound.channels} channels mixed down by the weights of BT.775", Source.STANDARD)
    return chosen(sound.channels, "channels", "as the master", Source.MASTER)


def _sample_rate(sound: AudioFacts, rule: AudioRule, choices: Choices, codec: SoundCodec, name: str) -> Chosen[int]:
    possible = [hz for hz in rule.sample_rates_hz if hz in SOUND_CODECS[codec].rates_hz] or list(SOUND_CODECS[codec].rates_hz)
    if choices.sample_rate_hz is not None:
        if choices.sample_rate_hz not in possible:
            taken = ", ".join(f"{hz / 1000:g} kHz" for hz in possible)
            raise BadChoice(f"{choices.sample_rate_hz} Hz is not taken here.", f"Choose one of: {taken}.", code="not_taken")
        return chosen(choices.sample_rate_hz, "creator_sample_rate", "your choice", Source.CREATOR)
    if sound.sample_rate_hz in possible:
        return chosen(sound.sample_rate_hz, "sample_rate", "as the master", Source.MASTER)
    wanted = 48000 if 48000 in possible else possible[0]
    return chosen(wanted, "sample_rate", f"what {name} takes", Source.SHEET)


def _bit_rate(rule: AudioRule, choices: Choices, codec: SoundCodec, channels: int, rate_hz: int, name: str) -> Chosen[int | None]:
    if codec == "pcm":
        return chosen(PCM_BITS * rate_hz * channels, "pcm_rate", f"{PCM_BITS} bits a sample, nothing is lost", Source.STANDARD)
    if codec == "flac":
        return chosen(None, "flac_rate", "as the sound needs; nothing is lost", Source.STANDARD)
    if choices.sound_bitrate_bps is not None:
        return chosen(choices.sound_bitrate_bps, "creator_sound_rate", "your choice", Source.CREATOR)
    low, top = rule.asked(codec, channels)
    between = f", top of {low // 1000} to {top // 1000} kbit/s" if low else ""
    return chosen(top, "sound_rate", f"{name}'s {'stereo' if channels == 2 else 'mono'} rate{between}", Source.SHEET)


def _gain(sound: Heard, rule: AudioRule, name: str, choices: Choices, *, turn_down: bool) -> Chosen[float]:
    """gain = min(target − measured loudness, peak limit − measured true peak), in dB."""
    def gain(value: float, code: str, sentence: str, source: Source = Source.MEASURED) -> Chosen[float]:
        return chosen(value, code, sentence, source)

    if choices.gain_db is not None:
        return gain(round(choices.gain_db, 2), "creator_gain", "your choice", Source.CREATOR)
    if sound.integrated_lufs is None or sound.true_peak_dbtp is None:
        return gain(0.0, "gain_silent", "the sound is silent, so nothing is turned", Source.MASTER)
    if rule.target_lufs is None or rule.true_peak_limit_dbtp is None:
        if turn_down:
            down = min(0.0, SAFE_LUFS - sound.integrated_lufs, SAFE_PEAK_DBTP - sound.true_peak_dbtp)
            return gain(round(down, 2), "gain_turned_down", f"your choice; {name} states no level, so to {level_text(SAFE_LUFS)} LUFS")
        return gain(0.0, "gain_none", f"{name} leaves the level alone", Source.SHEET)
    target, limit = f"{level_text(rule.target_lufs)} LUFS", f"{level_text(rule.true_peak_limit_dbtp)} dBTP"
    wanted = rule.target_lufs - sound.integrated_lufs
    room = rule.true_peak_limit_dbtp - sound.true_peak_dbtp
    least = min(wanted, room)
    if room < wanted - 0.05:
        short = f"stays {wanted - room:.1f} LU below {name}'s {target}"
        why = f"{short}, since its peaks reach the {limit} limit; tamer peaks in the edit would help"
        return gain(round(least, 2), "gain_peak_limited", why)
    if rule.turns == "down" and least > 0:
        return gain(round(least, 2), "gain_to_target", f"up to {target} here, since {name} only turns down; below {limit}")
    return gain(round(least, 2), "gain_to_target", f"to {name}'s {target}, below {limit}")
