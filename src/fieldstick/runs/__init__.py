"""What goes over many texts: checking, extracting, selecting, trying, surveying; one executor for all."""
