"""Operations on the record: reports, odds, calendar, history."""

from neatpatch.api.record import reports

ROUTERS = (reports.router,)
