# SPDX-License-Identifier: MIT
"""Real sizes read off a photograph: lines on a plane, a straightened wall, things that stand on the ground."""
