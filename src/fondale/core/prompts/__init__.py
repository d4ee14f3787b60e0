"""Prompts: what is wrong or at risk, why, and what to do."""

from fondale.core.prompts.finding import Finding, Fix
from fondale.core.prompts.rules import all_prompts, judge

__all__ = ["Finding", "Fix", "all_prompts", "judge"]
