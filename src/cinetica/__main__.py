from cinetica.cli import main

main()
