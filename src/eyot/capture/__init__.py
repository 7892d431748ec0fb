"""Photos as they come from a camera: a watched folder for real files, and a simulated camera that stands in for one."""
