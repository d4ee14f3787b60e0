# SPDX-License-Identifier: MIT
"""The furniture that stations share: fields, cells, tickets, pictures, rows, and what tells *how?*."""
