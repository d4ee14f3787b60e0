"""Prompts: what is wrong or at risk, why, and what to do."""

from fondale.core.prompts.finding import Finding, Fix
from fondale.core.prompts.rules import accepted_prompts, all_prompts

__all__ = ["Finding", "Fix", "accepted_prompts", "all_prompts"]
