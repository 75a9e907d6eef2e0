"""Outlines of machines in millimetres: our own calm shapes of no particular make, drawn from back to front.

Origin at the rear axle, forward and up positive. Wheels are circles of their own; the rest are paths.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Body:
    """An outline: wheelbase, wheel radius, top, and (class, path) from back to front."""

    wheelbase: float
    wheel_r: float
    top: float
    shapes: tuple[tuple[str, str], ...]


TOURER = Body(1480.0, 320.0, 1080.0, (
    ("b-metal", "M -20 0 L 560 120 L 600 60 L -20 -30 Z"),
    ("b-line", "M 560 90 L 430 470 L 760 640 L 1090 700"),
    ("b-line", "M 560 90 L 900 40 L 1010 560 L 1090 720"),
    ("b-engine", "M 620 60 L 930 40 L 980 190 L 880 330 L 690 330 L 600 190 Z"),
    ("b-engine", "M 720 330 L 870 330 L 900 500 L 750 510 Z"),
    ("b-body", "M 640 640 C 700 760 980 800 1060 700 C 1060 610 960 560 820 560 C 740 560 660 580 640 640 Z"),
    ("b-seat", "M -270 690 C -150 700 20 640 180 600 C 320 570 520 560 650 640 L 640 590 C 500 500 300 510 120 550 "
               "C -20 590 -160 630 -270 650 Z"),
    ("b-body", "M 150 540 L 520 520 L 470 330 L 330 350 Z"),
    ("b-metal", "M 880 210 C 960 60 900 -60 700 -80 L 300 -60 L -130 20 L -150 90 L 310 10 L 690 -20 C 830 -10 880 60 "
                "830 210 Z"),
    ("b-body", "M 1040 790 C 1160 820 1290 760 1340 640 L 1200 560 L 1080 600 Z"),
    ("b-glass", "M 1080 790 L 1010 1060 C 1120 1010 1200 880 1210 780 Z"),
    ("b-line", "M 1090 720 L 1480 0 M 1130 760 L 1050 980 L 900 990"),
    ("b-body", "M 1270 330 C 1380 400 1600 380 1690 250 C 1600 320 1400 320 1290 270 Z"),
))
SMALL = Body(1200.0, 300.0, 880.0, (
    ("b-line", "M 0 0 L 430 60 L 330 420 L -40 400 M 430 60 L 700 40 L 900 560 M 330 420 L 620 470 L 900 560"),
    ("b-engine", "M 420 20 L 700 10 L 720 140 L 640 200 L 480 190 L 400 110 Z"),
    ("b-engine", "M 600 190 L 700 150 L 780 320 L 690 360 Z"),
    ("b-body", "M 480 480 C 520 600 800 620 870 550 C 860 470 700 430 560 440 C 510 445 485 460 480 480 Z"),
    ("b-seat", "M -160 470 L 470 500 C 480 540 460 560 420 560 L -100 540 C -150 530 -170 500 -160 470 Z"),
    ("b-metal", "M 600 40 L -220 0 L -240 60 L -220 80 L 600 90 Z"),
    ("b-metal", "M -260 260 C -180 400 160 400 260 280 C 150 350 -120 350 -230 220 Z"),
    ("b-line", "M 900 580 L 1200 0 M 900 600 L 860 800 L 720 820"),
    ("b-body", "M 930 700 C 1010 720 1070 690 1070 630 C 1070 570 1000 550 930 570 Z"),
    ("b-metal", "M 960 240 C 1080 380 1330 370 1440 220 C 1330 320 1090 330 985 200 Z"),
))
UTILITY = Body(1180.0, 270.0, 900.0, (
    ("b-line", "M 0 0 L 400 60 L 560 260 L 880 620 M 560 260 L 260 430 L -60 430 M 400 60 L 260 430"),
    ("b-engine", "M 430 -10 L 720 -10 L 760 110 L 680 240 L 470 230 L 400 110 Z"),
    ("b-metal", "M 470 230 C 470 330 640 330 660 240 Z"),
    ("b-body", "M 560 290 L 700 300 L 800 430 L 700 450 Z"),
    ("b-seat", "M 60 480 L 480 480 C 500 520 470 560 420 560 L 120 550 C 70 540 50 510 60 480 Z"),
    ("b-metal", "M -330 420 L 60 420 L 60 445 L -330 445 Z M -300 420 L -140 150 L -120 150 L -270 420 Z"),
    ("b-line", "M 880 640 L 1180 0 M 880 650 L 850 850 L 720 870"),
    ("b-metal", "M 1000 330 L 1340 330 L 1340 350 L 1000 350 Z"),
    ("b-body", "M 930 700 C 1000 715 1050 690 1050 640 C 1050 595 990 575 930 590 Z"),
))
CARGO = Body(1940.0, 255.0, 1120.0, (
    ("b-line", "M 0 0 L 430 20 L 330 620 M 0 0 L 350 470 M 430 20 L 870 500 L 350 470 M 870 500 L 880 720"),
    ("b-engine", "M 340 -40 L 520 -40 L 540 90 L 470 140 L 340 110 Z"),
    ("b-body", "M 380 180 L 330 560 L 400 570 L 450 190 Z"),
    ("b-seat", "M 200 690 C 300 720 400 700 470 680 C 460 650 380 640 300 650 C 250 650 210 660 200 690 Z"),
    ("b-line", "M 330 620 L 320 660 M 880 720 L 860 1030 L 720 1050"),
    ("b-body", "M 960 60 L 1700 60 L 1800 480 L 900 480 Z"),
    ("b-line", "M 870 500 L 960 40 L 1740 40 L 1860 520 L 1940 0"),
    ("b-metal", "M -260 330 C -150 410 150 410 260 330 C 150 370 -150 370 -260 330 Z"),
    ("b-metal", "M -300 420 L 250 420 L 250 445 L -300 445 Z"),
))
BODIES = {"touring motorcycle": TOURER, "motorcycle": TOURER, "small motorcycle": SMALL, "scooter": SMALL,
          "utility bike": UTILITY, "trail e-bike": CARGO, "cargo e-bike": CARGO, "e-scooter": CARGO}
