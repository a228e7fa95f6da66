import sys

from launch.commands import main

sys.exit(main(sys.argv[1:]))
