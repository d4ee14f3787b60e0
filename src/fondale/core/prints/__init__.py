# SPDX-License-Identifier: MIT
"""The print shop: measuring files, scaling, cutting with keys, weight and balance, hours, tries and cost."""
