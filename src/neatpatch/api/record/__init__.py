"""Operations on the record: reports, odds, calendar, history."""

from neatpatch.api.record import calendar, exports, histories, odds, reports

ROUTERS = (reports.router, odds.router, histories.router, calendar.router, exports.router)
