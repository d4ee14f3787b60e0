# SPDX-License-Identifier: MIT
"""What goes into what, bare and after paint; how many figures fit; pins; and which glue holds."""
