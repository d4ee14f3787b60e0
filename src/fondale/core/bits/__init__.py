# SPDX-License-Identifier: MIT
"""The bits box: which donor part is the right size for a need, and what a part reads as at another scale."""
