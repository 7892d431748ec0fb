import time, cProfile, pstats, os
from django.db import connection
from eyot.collection.models import Animal, CarriedGene
from tests.web.season_data import SeasonCase
from tests.web.large import fill
import random

def many(collection, n=20000, per=1000):
    r = random.Random(3); made=[]
    for g in range(n//per):
        parents = made[-2*per:]
        f=[p for i,p in enumerate(parents) if i%2==0]; m=[p for i,p in enumerate(parents) if i%2]
        rows = Animal.objects.bulk_create(Animal(collection=collection, name=f"H{g}-{i:04}", sex=("female","male")[i%2],
            dam=r.choice(f) if parents else None, sire=r.choice(m) if parents else None) for i in range(per))
        made += rows
    CarriedGene.objects.bulk_create(CarriedGene(animal=a, gene=("clown","piebald","hypo","ultramel")[i%4], known="possible", chance=("1","2/3","1/2")[i%3]) for i,a in enumerate(made[:per]))
    return made

class Peek(SeasonCase):
    def test_it(self):
        made = many(self.collection)
        with connection.cursor() as c: c.execute("ANALYZE")
        last = made[-1]
        for page in ("/", "/animals/", "/animals/?q=H3", "/pairings/", "/pairings/?dam=Marram&sire=Fathom", "/pairings/goal/?goal=pastel+mojave", "/history/", "/hets/", "/hets/", "/hets/?gene=clown", f"/hets/{last.pk}/clown/", f"/animals/{last.pk}/", "/proving/", "/laboratory/", "/explain/", "/season.ics", "/clutches/W-04/", "/clutches/W-02/2/", "/animals.csv", "/relook/count/", "/hets/explain/", "/hets/laboratory/", "/hets/proving/", "/animals/new/", "/pairings/new/", "/clutches/new/"):
            t=time.time(); a=self.client.get(page); print(page, a.status_code, round(time.time()-t,2), len(b"".join(a.streaming_content) if a.streaming else a.content), flush=True)
        p=cProfile.Profile(); p.enable(); self.client.get("/hets/"); p.disable()
        pstats.Stats(p).sort_stats("cumtime").print_stats(45)
