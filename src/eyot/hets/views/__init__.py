"""Views of hets and proof."""
