"""What runs beside the pages: the commands of the service, and the demonstration that it can begin with."""
