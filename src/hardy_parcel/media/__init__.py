"""Everything that touches a media file. The only room that imports PyAV."""
