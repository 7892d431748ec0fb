"""What holds for the jobs of all workers."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django.models import ProcrastinateJob

RETRY = RetryStrategy(max_attempts=4, wait=2, exponential_wait=3)
"""How often a job that failed is tried again, and after how many seconds: a database that is started anew fails none."""


def has_failed(task: str, **given: object) -> bool:
    """Did a worker fail at the job that was given just this, more often than it tries?"""
    return ProcrastinateJob.objects.filter(task_name=task, status="failed", args=given).exists()
