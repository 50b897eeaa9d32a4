"""The demo company, invented: Ninefold Ductless at Kestrel Yard, a tram depot made into studios."""
