"""What lies between a radio and its antenna: cable, joints, connectors."""
