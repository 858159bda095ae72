"""Files of other programs and other installations, read: MusicXML, MIDI, bundles."""
