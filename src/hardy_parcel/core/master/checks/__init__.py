"""Checks on a master: what is measured on sampled pictures and on the sound, and the stamps that follow from it.

    survey    the evidence, as it is stored
    picture   one picture: blank, levels, edges, spatial information, grain
    motion    neighbouring pictures: change, blends, temporal information, fields
    combing   interlacing, from the fields of moving pictures
    cadence   repeated and blended pictures, from the changes
    bars      the active picture, from the edges
    sound     silence, clipping, the loudness envelope
    colour    what the colour tags say against each other and against the picture
    stamping  every stamp, from facts and survey
"""
