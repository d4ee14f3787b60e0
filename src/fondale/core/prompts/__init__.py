# SPDX-License-Identifier: MIT
"""Prompts: what is wrong or at risk, why, and what to do."""

from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.prompts.rules import RULES, all_prompts, judge, sorted_out

__all__ = ["RULES", "Finding", "Fix", "Rule", "all_prompts", "judge", "sorted_out"]
