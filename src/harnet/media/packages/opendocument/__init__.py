"""Text, presentation and drawing documents of ISO/IEC 26300."""
