"""A routine once a week, as each system's own scheduler takes it. Nothing is installed; a person does that."""

from __future__ import annotations

import re
import shlex
import subprocess
from collections.abc import Callable, Sequence
from html import escape

_DAY, _HOUR, _MINUTE = "Friday", 12, 30  # when the computer is likely to be on


def _cron(command: Sequence[str]) -> str:
    line = shlex.join(command).replace("%", "\\%")  # which crontab(5) takes for the end of a line
    return f"# Add this line with: crontab -e\n{_MINUTE} {_HOUR} * * 5 {line}\n"


def _systemd(command: Sequence[str]) -> str:
    line = " ".join(map(_systemd_word, command)).replace("%", "%%").replace("$", "$$")
    return (
        "# Save as ~/.config/systemd/user/zesty-routine.service\n"
        f"[Unit]\nDescription=A crate of this week\n\n[Service]\nType=oneshot\nExecStart={line}\n\n"
        "# Save as ~/.config/systemd/user/zesty-routine.timer, then:\n"
        "#   systemctl --user enable --now zesty-routine.timer\n"
        f"[Timer]\nOnCalendar={_DAY[:3]} *-*-* {_HOUR:02}:{_MINUTE:02}:00\nPersistent=true\n\n"
        "[Install]\nWantedBy=timers.target\n"
    )


def _systemd_word(word: str) -> str:
    """A word as systemd.syntax(7) quotes it, which is not as a shell does."""
    if re.fullmatch(r"[\w@+=:,./%-]+", word):
        return word
    return '"' + word.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _launchd(command: Sequence[str]) -> str:
    arguments = "\n".join(f"    <string>{escape(each)}</string>" for each in command)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<!-- Save as ~/Library/LaunchAgents/zesty.routine.plist, then: launchctl load that file -->
<!DOCTYPE plist PUBLIC "-//Apple//DTD PLIST 1.0//EN" "http://www.apple.com/DTDs/PropertyList-1.0.dtd">
<plist version="1.0">
<dict>
  <key>Label</key>
  <string>zesty.routine</string>
  <key>ProgramArguments</key>
  <array>
{arguments}
  </array>
  <key>StartCalendarInterval</key>
  <dict>
    <key>Weekday</key>
    <integer>5</integer>
    <key>Hour</key>
    <integer>{_HOUR}</integer>
    <key>Minute</key>
    <integer>{_MINUTE}</integer>
  </dict>
</dict>
</plist>
"""


def _windows(command: Sequence[str]) -> str:
    program, *arguments = command
    return f"""<?xml version="1.0"?>
<!-- Save as routine.xml, then: schtasks /Create /TN "Zesty routine" /XML routine.xml -->
<Task version="1.2" xmlns="http://schemas.microsoft.com/windows/2004/02/mit/task">
  <Triggers>
    <CalendarTrigger>
      <StartBoundary>2026-01-02T{_HOUR:02}:{_MINUTE:02}:00</StartBoundary>
      <ScheduleByWeek>
        <DaysOfWeek><{_DAY} /></DaysOfWeek>
        <WeeksInterval>1</WeeksInterval>
      </ScheduleByWeek>
    </CalendarTrigger>
  </Triggers>
  <Settings>
    <StartWhenAvailable>true</StartWhenAvailable>
  </Settings>
  <Actions>
    <Exec>
      <Command>{escape(program)}</Command>
      <Arguments>{escape(subprocess.list2cmdline(arguments))}</Arguments>
    </Exec>
  </Actions>
</Task>
"""


SCHEDULERS: dict[str, Callable[[Sequence[str]], str]] = {
    "cron": _cron,
    "systemd": _systemd,
    "launchd": _launchd,
    "windows": _windows,
}


def schedule_for(scheduler: str, command: Sequence[str]) -> str:
    """What to give to a scheduler, so that it runs a command each week. Times are the computer's own."""
    return SCHEDULERS[scheduler](command)
