"""What the benches of single pages share: the code that times a page inside the server."""

TIMED = """
import statistics, time
from django.test import Client
from inchmark.people.models import User

def client_of(name):
    client = Client(SERVER_NAME="localhost")
    client.force_login(User.objects.get(username=name))
    return client

def timed(client, address, check=lambda response: None):
    times = []
    for _ in range(22):
        began = time.perf_counter()
        response = client.get(address)
        times.append(time.perf_counter() - began)
        assert response.status_code == 200, response.status_code
        check(response)
    return 1000 * statistics.median(times[2:])
"""
