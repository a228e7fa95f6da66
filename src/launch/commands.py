"""What `./oido` can be told to do."""

import sys
from collections.abc import Callable, Sequence

from launch import backing_up, deploying
from launch.deploy_check import deploy_check
from launch.say import GiveUp, complain, say
from launch.starting import start
from launch.trying import bench, check, core, shots, test, texts, types

HELP = """Usage: ./oido COMMAND

  start     install what is missing and serve Oido with its demo school; `start --empty` without a school, to set one up
  test      run every test (a label such as tests.ear runs a part; --coverage tells how much they reach)
  check     lint, format, types, templates, migrations
  measure   measure a take against a target part, both Standard MIDI Files
  read      say what is read in a MIDI or MusicXML file
  bench     score the matching against labelled takes; `bench marks` prints the scale of marks,
            `bench listening` whether ear notes name the one thing that is wrong, `bench editing` times the Bench,
            `bench recording` and `bench latency` the Stand in a browser, `bench report` reports and marking,
            `bench start` the steps of a first start, `bench uploads --students N` students who send at once, `bench lists` long lists of people,
            `bench requests` weighs the largest requests, `bench scale` what the main pages read in a large school,
            `bench kills --kills N --seed N` kills processes while students send takes, `bench outages` breaks the database,
            `bench engraving` writes random parts and a corpus of scores and draws chosen bars,
            `bench spelling` spells scores again whose names were taken away,
            `bench files FOLDER` reads a folder's files beside two other readers,
            `bench fuzz --minutes N` reads files that were broken by chance,
            `bench mutants --room takes` puts small faults into the code and counts those that the tests notice,
            `bench words` counts strings, flagged phrases and names that say nothing
  shots     take the screenshots in docs/screenshots from the demo data
  texts     gather the texts for translation into the catalogues of src/oido/languages
  types     write the types of data that pages and server share, from Python’s to those of the scripts

For a school (docs/guide/operating.md); settings from the environment and from .env:
  install       install what serving takes, make the secret key, gather static files
  migrate       bring the tables up to date
  serve         serve pages; work: do what waits in the background; schedule: begin what falls due
  manage        one of Django’s own commands with these settings
  rotate-key    a new secret key; what the old one signed still counts
  backup        `backup FOLDER [--key FILE] [--keep 14]`: everything, in one file, while people work
  restore       `restore FILE [--identity FILE]`: into an empty database, counted and compared
  doctor        what is wrong with this installation, and what to do
  deploy-check  look at a running Oido from outside: `deploy-check https://oido.example.org`
"""


def main(arguments: Sequence[str]) -> int:
    command = arguments[0] if arguments else ""
    handlers: dict[str, Callable[[Sequence[str]], int]] = {
        "start": start,
        "test": test,
        "check": check,
        "shots": shots,
        "types": types,
        "texts": texts,
        "measure": lambda rest: core(["measure", *rest]),
        "read": lambda rest: core(["read", *rest]),
        "bench": bench,
        "install": deploying.install_all,
        "migrate": deploying.migrate,
        "serve": deploying.serve,
        "work": deploying.work,
        "schedule": deploying.schedule,
        "manage": deploying.run_manage,
        "rotate-key": deploying.rotate_key,
        "deploy-check": deploy_check,
        "doctor": deploying.doctor,
        "backup": backing_up.backup,
        "restore": backing_up.restore,
    }
    if command in ("", "help", "-h", "--help"):
        say(HELP)
        return 0
    if command not in handlers:
        complain(f"there is no command {command!r}; ./oido help lists them")
        return 2
    try:
        return handlers[command](arguments[1:])
    except GiveUp as reason:
        complain(str(reason))
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
