"""`tidy`: what is only kept for a while goes. The server runs it each night."""

from datetime import timedelta
from typing import Any

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.utils import timezone

from ....bench.history import delete_what_is_due
from ....jobs import work as jobs
from ....records.models import Act
from ....workshop.models import Invitation, ResetCode, SignIn

KEPT = timedelta(days=30)
SIGN_INS_KEPT = timedelta(days=365)


class Command(BaseCommand):
    """Clear sessions that ran out, lock-outs, invitations nobody can take up any more, plans long in the archive."""

    help = "Clear what ran out: sessions, lock-outs, invitations, plans in the archive."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        call_command("clearsessions")
        long_ago = timezone.now() - KEPT
        for model in (AccessAttempt, AccessFailureLog, AccessLog):
            model.objects.filter(attempt_time__lt=long_ago).delete()
        Invitation.objects.filter(expires__lt=long_ago).delete()
        ResetCode.objects.filter(expires__lt=timezone.now()).delete()
        SignIn.objects.filter(at__lt=timezone.now() - SIGN_INS_KEPT).delete()
        delete_what_is_due()
        Act.objects.filter(at__lt=long_ago).delete()  # no browser keeps one so long
        jobs.tidy()
        if settings.TASKS_BESIDE:
            call_command("prune_db_task_results", min_age_days=1, verbosity=0)
