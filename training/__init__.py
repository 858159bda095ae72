"""How the ear was trained: composer, sounds, band, renderer, network. torch is needed only here."""
