// full
// Four digits in turn at 1.5 kHz, with division: a count of seconds.
module top(input clk, input key, output reg [0:6] seg, output reg [3:0] an, output lamp);
  reg [26:0] div = 0;
  reg [16:0] scan = 0;
  reg [13:0] n = 0;
  wire tick = div == 99999999;
  always @(posedge clk) begin
    div <= tick ? 0 : div + 1;
    scan <= scan + 1;
    if (!key) n <= 0; else if (tick) n <= n + 1;
  end
  reg [3:0] d;
  always @* begin
    case (scan[16:15])
      0: begin an = 4'b1110; d = n % 10; end
      1: begin an = 4'b1101; d = n / 10 % 10; end
      2: begin an = 4'b1011; d = n / 100 % 10; end
      default: begin an = 4'b0111; d = n / 1000; end
    endcase
    case (d)
      0: seg = 7'b0000001; 1: seg = 7'b1001111; 2: seg = 7'b0010010; 3: seg = 7'b0000110; 4: seg = 7'b1001100;
      5: seg = 7'b0100100; 6: seg = 7'b0100000; 7: seg = 7'b0001111; 8: seg = 7'b0000000; 9: seg = 7'b0000100;
      default: seg = 7'b1111111;
    endcase
  end
  assign lamp = n[0];
endmodule
