"""Cut settings: how each process is cut in a stock."""

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from perisect.core.cutting.setting import CutSetting, default_setting
from perisect.core.process import processes
from perisect.store.locks import hold
from perisect.store.models import CutSettingRow


def of_stock(session: Session, stock: str) -> dict[str, CutSetting]:
    """Settings of a stock by process; those nobody has set as the table of processes says."""
    rows = session.scalars(select(CutSettingRow).where(CutSettingRow.stock == stock)).all()
    own = {row.process: CutSetting.model_validate(row.setting) for row in rows}
    return {each.name: own.get(each.name) or default_setting(each) for each in processes()}


def save(session: Session, stock: str, settings: Mapping[str, CutSetting]) -> None:
    """Set some of a stock's settings."""
    hold(session, "cut_setting")
    for process, setting in settings.items():
        row = session.get(CutSettingRow, (stock, process))
        if row is None:
            row = CutSettingRow(stock=stock, process=process)
            session.add(row)
        row.setting = setting.model_dump(mode="json")
