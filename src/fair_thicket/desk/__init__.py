"""The desk: the only room that knows Qt. It holds views of the card; every figure comes from the engines."""
