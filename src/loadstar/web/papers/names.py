"""The papers of a machine by their names in addresses, in the order of the whole; `machine.MAKES` makes them."""

PAPERS = {"owner": "For the owner, in plain words", "fuses": "Fuse card", "drawing": "Circuit drawing of the additions",
          "pins": "Pin maps as found", "cut": "Cut list", "order": "Parts and cost", "work": "Log of the work",
          "proof": "Measured against predicted", "standard": "Back to standard", "rests": "Values not measured"}
