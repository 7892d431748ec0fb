"""What holds for the jobs of all workers."""

from __future__ import annotations

from django.db import connection
from procrastinate import RetryStrategy
from procrastinate.contrib.django.models import ProcrastinateJob

RETRY = RetryStrategy(max_attempts=4, wait=2, exponential_wait=3)
"""How often a job that failed is tried again, and after how many seconds: a database that is started anew fails none."""


def is_under_way(task: str, **given: object) -> bool:
    """Is a worker at the job that was given just this, or will one come to it?"""
    return ProcrastinateJob.objects.filter(task_name=task, status__in=("todo", "doing"), args=given).exists()


def has_failed(task: str, **given: object) -> bool:
    """Did a worker fail at the job that was given just this, more often than it tries?"""
    return ProcrastinateJob.objects.filter(task_name=task, status="failed", args=given).exists()


def forget_failures() -> None:
    """Takes away what is kept of jobs that failed, so that what they were for may be ordered anew."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs WHERE status = 'failed'")
